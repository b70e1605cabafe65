using System.Globalization;
using System.Text.RegularExpressions;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Runs;

/// <summary>
/// Somebody at a machine who does what is said, to the letter, and nothing else; who knows what lies where by that alone. A sentence that nobody could follow
/// is a failure, and so is one that asks for what is so already, but where it was said that the machine is not as it was taken to be.
/// </summary>
public sealed class Hands
{
    private readonly Dictionary<int, string> _tools = [];
    private readonly Dictionary<string, string> _blades = [];
    private List<string> _foil = [];
    private string? _foilName;
    private bool _foilIsFresh;
    private Face _up;

    /// <summary>The paper that lies in the machine: any name that the test has for it.</summary>
    public object? Paper { get; private set; }

    /// <summary>How much was done so far.</summary>
    public int Deeds { get; private set; }

    /// <summary>Does what is said.</summary>
    /// <param name="paper">What is laid in if a sheet is.</param>
    /// <param name="knows">Whether whoever asks knows what the machine holds; otherwise things may be asked for that are so.</param>
    public void Obey(string text, object paper, bool knows = true)
    {
        foreach (var sentence in Regex.Split(text, @"(?<=\.) (?=[A-Z])"))
        {
            Deeds++;
            if (Is(sentence, @"^(Put .+ on the mat|Feed .+ in)(, face down)?\.$", out _) || Is(sentence, "^Lay sheet [0-9]+ in again, ", out _))
            {
                Assert.True(!knows || !Equals(Paper, paper), $"It lies there: {text}");
                (Paper, _up, _foil, _foilName) = (paper, sentence.Contains("face down") ? Face.Inner : Face.Outer, [], null);
            }
            else if (Is(sentence, @"^Put the (.+) in (?:holder (\d+)|the holder)(?:, its blade (.+) out)?\.$", out var put))
            {
                PutIn(put);
            }
            else if (Is(sentence, @"^The (.+) comes out\.$", out var comes))
            {
                Assert.Equal(comes[1], _out);
            }
            else if (sentence.StartsWith("Have the ", StringComparison.Ordinal))
            {
                foreach (Match m in Regex.Matches(sentence, @"the (.+?) in (?:holder (\d+)|the holder)(?:, its blade ([0-9.]+ mm) out)?(?: and |\.$)"))
                    PutIn([.. m.Groups.Values.Select(g => g.Value)], false);
            }
            else if (Is(sentence, @"^Set the blade of the (.+?) ([0-9.]+ mm) out(, and leave the sheet where it is)?\.$", out var set))
            {
                Assert.True(_tools.ContainsValue(set[1]), $"There is no {set[1]}: {text}");
                Assert.NotEqual(set[2], _blades.GetValueOrDefault(set[1]));
                _blades[set[1]] = set[2];
            }
            else if (sentence.StartsWith("Peel the foil off", StringComparison.Ordinal))
            {
                Assert.NotEmpty(_foil);
                _foil = [];
            }
            else if (sentence.StartsWith("Turn the sheet over, ", StringComparison.Ordinal))
            {
                Assert.Empty(_foil);
                _up = _up == Face.Inner ? Face.Outer : Face.Inner;
            }
            else if (Is(sentence, @"^Tape (.+?) down: ([0-9]+ × [0-9]+ mm)\.$", out var one))
            {
                Tape(one[1], [one[2]]);
            }
            else if (Is(sentence, @"^Tape ([0-9]+) pieces of (.+?) down(, each|:) (.+)\.$", out var many))
            {
                var count = int.Parse(many[1], CultureInfo.InvariantCulture);
                Tape(many[2], many[3] == ":" ? many[4].Split(", ") : [.. Enumerable.Repeat(many[4], count)]);
            }
            else
            {
                Assert.Matches("^(It is |It lies in its corner|Its upper left corner|Its inner side is up|The edge that lay|Let the ink dry for )", sentence);
            }
        }

        void PutIn(string[] its, bool isNew = true)
        {
            var holder = its[2].Length > 0 ? int.Parse(its[2], CultureInfo.InvariantCulture) : 1;
            Assert.True(!isNew || !knows || !_tools.ContainsValue(its[1]) || _tools.GetValueOrDefault(holder) != its[1], $"It is in: {text}");
            _out = _tools.GetValueOrDefault(holder);
            foreach (var other in _tools.Where(t => t.Value == its[1]).Select(t => t.Key).ToList()) _tools.Remove(other);
            _tools[holder] = its[1];
            _blades[its[1]] = its[3];
        }

        void Tape(string foil, string[] sizes)
        {
            Assert.Empty(_foil);
            (_foil, _foilName, _foilIsFresh) = ([.. sizes], foil, true);
        }
    }

    private string? _out;

    /// <summary>The machine works a step of some paper: with the tool that it is for, on the side that it is for, through the foil that it is for.</summary>
    public void Work(RunStep step, object paper, SheetPart part)
    {
        Assert.Equal(paper, Paper);
        Assert.Contains(Tool.InSentence(step.ToolName), _tools.Values);
        Assert.Equal(step.Face, _up);
        if (step.Depth is { } depth && _blades.GetValueOrDefault(Tool.InSentence(step.ToolName)) is { Length: > 0 } set) Assert.Equal($"{depth}", set);
        if (step.Operation != Operation.Foil)
        {
            Assert.Empty(_foil);
            return;
        }

        Assert.Equal(step.Foil is { } name ? Tool.InSentence(name) : "foil", _foilName);
        Assert.True(part is SheetPart.Rest or SheetPart.Test || _foilIsFresh, "The foil was used.");
        var sizes = step.Patches.Select(p => $"{p.Width:0} × {p.Height:0} mm").ToList();
        Assert.True(sizes.TrueForAll(_foil.Contains) || (part == SheetPart.Rest && _foil.Count > 0), $"The foil is {string.Join(", ", _foil)}");
        _foilIsFresh = false;
    }

    /// <summary>Somebody else was at the machine: nothing is as it was, and they said so.</summary>
    public void Forget()
    {
        _tools.Clear();
        _blades.Clear();
        (Paper, _foil) = (null, []);
    }

    private static bool Is(string sentence, string pattern, out string[] groups)
    {
        var match = Regex.Match(sentence, pattern);
        groups = [.. match.Groups.Values.Select(g => g.Value)];
        return match.Success;
    }
}

using System.Globalization;
using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Reading;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>Recognition of generated files against what a careful person would be sure of. FALZKUNST_FILES ("2000@4711") says how many, and the first
/// seed; FALZKUNST_FILES_OUT a folder for those that came in wrong.</summary>
public sealed class AnyFileTests
{
    /// <summary>What is wrong with how a file came in, and how its folds fared.</summary>
    private sealed record Score(List<string> Faults, int FoldsFound, int FoldsMissed, int FoldsTooMany, int Questions);

    private static Score Of(AnyFile file, Design design)
    {
        var faults = new List<string>();
        var free = design.Pieces.ToList();
        var found = new Dictionary<int, Piece>();
        var asked = file.Asks.Length == 0 || Asked(design, file.Asks);
        if (!asked) faults.Add($"not asked: {file.Asks}");
        for (var i = 0; i < file.Pieces.Count; i++)
        {
            var (name, outer, holes) = file.Pieces[i];
            if (name == file.Asks && asked) free.RemoveAll(p => p.OnCard.Bounds.Grown(0.3).Holds(outer.Bounds));
            if (name == file.Asks) continue;
            var area = Math.Abs(Polygons.SignedArea(outer.Rings[0]));
            var piece = free.Find(p => Near(p.OnCard.Bounds, outer.Bounds, 0.3)
                && Math.Abs(Math.Abs(Polygons.SignedArea(p.OnCard.Rings[0])) - area) < 0.02 * area + 0.5
                && (found.Count == 0 || holes.Count == 0 || p.HoleCount == holes.Count || !free.Exists(q => q != p
                    && Near(q.OnCard.Bounds, outer.Bounds, 0.3))));
            if (piece is null)
            {
                faults.Add($"piece: {name} is none");
                continue;
            }

            free.Remove(piece);
            found[i] = piece;
            var rings = piece.OnCard.Subpaths.Skip(1).Select(s => new VectorPath([s]).Bounds).ToList();
            var missing = holes.Count(h => rings.RemoveAll(b => Near(b, h.Bounds, 0.3)) == 0);
            if (missing > 0) faults.Add($"hole: {missing} of {name} missing");
            if (rings.Count > 0) faults.Add($"hole: {rings.Count} too many in {name}");
        }

        if (free.Count > 0) faults.Add($"piece: {free.Count} too many");
        var lines = design.Lines.ToList();
        var (foundFolds, missed) = (0, 0);
        foreach (var fold in file.Lines.Where(l => l.Fold is not null))
        {
            var (a, b) = fold.Fold!.Value;
            var those = lines.FindAll(l => l.Operation == Operation.Score && Folds.IsStraight(l.Path, out var p, out var q)
                && ((p.DistanceTo(a) < 3.2 && q.DistanceTo(b) < 3.2) || (p.DistanceTo(b) < 3.2 && q.DistanceTo(a) < 3.2)));
            if (those.Count == 0)
            {
                faults.Add("fold: missing");
                missed++;
                continue;
            }

            foundFolds++;
            if (found.TryGetValue(fold.Piece, out var base_) && those[0].CarriedBy != base_.Id) faults.Add("fold: on another piece");
            lines.RemoveAll(those.Contains);
        }

        var tooMany = lines.RemoveAll(l => l.Operation is Operation.Score && file.Asks.Length == 0);
        if (tooMany > 0) faults.Add("fold: one that is none");
        foreach (var line in file.Lines.Where(l => l.Fold is null))
        {
            var those = lines.FindAll(l => line.Within.Holds(l.Path.Bounds));
            var kind = line.Operation.ToString().ToLowerInvariant();
            if (those.Count == 0) faults.Add($"{kind}: missing");
            if (those.Exists(l => l.Operation != line.Operation)) faults.Add($"{kind}: has another operation");
            if (found.TryGetValue(line.Piece, out var carrier) && those.Exists(l => l.CarriedBy != carrier.Id)) faults.Add($"{kind}: on another piece");
            lines.RemoveAll(those.Contains);
        }

        if (lines.RemoveAll(l => l.Operation != Operation.Rest) > 0 && file.Asks.Length == 0) faults.Add("line: more than there are");
        return new(faults, foundFolds, missed, tooMany, Questions(design));
    }

    private static bool Asked(Design design, string what) => what == "panel" && design.Pieces.Any(p => p.Origin?.Or == Meaning.Panel);

    private static int Questions(Design design) => Doubts.Of(design).Length + FindingList.Of(new(design, [])).Count(f => f.Code == "almost-closed");

    private static bool Near(Box a, Box b, double by) => Math.Abs(a.Left - b.Left) <= by && Math.Abs(a.Top - b.Top) <= by && Math.Abs(a.Right - b.Right) <= by
        && Math.Abs(a.Bottom - b.Bottom) <= by;

    [Fact]
    public void Most_files_that_nobody_has_seen_come_in_right()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_FILES", "200@1", "300@1");
        var folder = Environment.GetEnvironmentVariable("FALZKUNST_FILES_OUT");
        var (right, kinds, ways) = (0, new Dictionary<string, int>(), new Dictionary<string, (int Wrong, int All)>());
        int found = 0, missed = 0, tooMany = 0, questions = 0;
        for (var seed = first; seed < first + count; seed++)
        {
            var file = AnyFile.Make(seed);
            var score = Of(file, DesignReader.Read(Encoding.UTF8.GetBytes(file.Svg)));
            (found, missed, tooMany, questions) = (found + score.FoldsFound, missed + score.FoldsMissed, tooMany + score.FoldsTooMany,
                questions + score.Questions);
            var faults = score.Faults;
            if (faults.Count == 0) right++;
            foreach (var f in faults.Distinct()) kinds[f] = kinds.GetValueOrDefault(f) + 1;
            foreach (var way in file.Ways.Split(", ").Distinct())
                ways[way] = (ways.GetValueOrDefault(way).Wrong + (faults.Count > 0 ? 1 : 0), ways.GetValueOrDefault(way).All + 1);
            if (folder is not null && faults.Count > 0)
                File.WriteAllText(Path.Combine(folder, $"{seed}.svg"), file.Svg + $"<!-- {file.Ways}; {string.Join("; ", faults)} -->");
        }

        var said = string.Create(CultureInfo.InvariantCulture,
            $"{right} of {count} right ({100.0 * right / count:0.0} %); folds: recall {Part(missed):0.0000}, "
            + $"precision {Part(tooMany):0.0000}; {(double)questions / count:0.00} questions a file\n")
            + string.Join('\n', kinds.OrderByDescending(k => k.Value)
            .Select(k => $"{k.Value} {k.Key}")) + "\n\n" + string.Join('\n', ways.OrderByDescending(w => (double)w.Value.Wrong / w.Value.All)
            .Select(w => $"{100.0 * w.Value.Wrong / w.Value.All:0} % of {w.Value.All} {w.Key}"));
        if (folder is not null) File.WriteAllText(Path.Combine(folder, "all.txt"), said);
        Assert.True(right >= 0.95 * count, said);

        double Part(int wrong) => (double)found / (found + wrong);
    }
}

using Falzkunst.Core.Cards;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Shapes;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>How closed lines are filled.</summary>
public sealed partial class BuildModel
{
    /// <summary>What one way to fill gives.</summary>
    /// <param name="Infill">Null for the outlines alone.</param>
    /// <param name="Seconds">Null where there is no machine to tell.</param>
    /// <param name="Coverage">From 0 to 1.</param>
    public sealed record InfillPlate(string Key, string Name, Infill? Infill, IReadOnlyList<VectorPath> Strokes, double? Seconds, double Coverage);

    /// <summary>The closed lines that are chosen, where all that is chosen can be filled.</summary>
    public IReadOnlyList<LaidLine> Fillable => Lines.Count > 0 && Lines.All(l => l.IsClosed && Infill.Suits(l.Operation)) ? Lines : [];

    public IReadOnlyList<InfillPlate> InfillPlates { get; private set; } = [];

    /// <summary>Of how many of the chosen lines the plates are worked out.</summary>
    public int InfillSample { get; private set; }

    /// <summary>The tool that the chosen lines are made with.</summary>
    public Tool? InfillTool { get; private set; }

    public static string KeyOf(Infill? infill) => infill?.Kind.ToString().ToLowerInvariant() ?? "none";

    /// <summary>What each way to fill the chosen lines gives: a picture, the time, and how much it covers.</summary>
    public async Task<IActionResult> OnGetInfillsAsync(CancellationToken cancel)
    {
        await ShowCard(cancel);
        if (Fillable.Count == 0) return Content("", "text/html");
        var lines = Fillable;
        var settings = await Parts.Drawer.Settings(cancel);
        var stock = Stocks.Count > 0 && lines[0].By is { } by ? Core.Cards.Stocks.For(by, Stocks) : null;
        if (!Tools.Exists(t => t.Operation == lines[0].Operation)) return Content("", "text/html");
        var tool = InfillTool = Tool.Taken(Tools, settings, lines[0].Operation, stock?.Id ?? "");
        var setting = stock is null ? null : MaterialSetting.Completed(settings, [stock], [tool]).FirstOrDefault();
        var machine = UsualMachine is { } row ? Drawer.ToCore(row) : null;
        // Of very much only a part is worked out, and the rest reckoned by its area: so many mm of strokes are drawn for each way.
        const double mostStrokesMm = 40_000;
        var areas = lines.Select(l => Core.Regions.Region.Of(l.Path).AreaMm2).ToList();
        var (all, drawn) = (areas.Sum(), 0.0);
        InfillSample = lines.Zip(areas).TakeWhile(l => (drawn += l.Second / Math.Max(0.05, l.First.Line.WidthBy(tool.Width).Mm)) <= mostStrokesMm).Count();
        if (InfillSample == 0) return Partial("_Infills", this);
        lines = [.. lines.Take(InfillSample)];
        var area = areas.Take(InfillSample).Sum();
        var times = area > 0 ? all / area : 1;
        var now = lines[0].Line.FilledBy;
        // A choice that was made at another angle is shown as it is.
        List<Infill?> choices = [null, .. Infill.Choices.Select(c => now?.Kind == c.Kind ? now : c)];
        InfillPlates = await Task.Run(() => choices.ConvertAll(c =>
        {
            cancel.ThrowIfCancellationRequested();
            var each = lines.Select(l => c is null ? l.Path.Parts() : InfillStrokes.Of(l.Path, c, l.Line.WidthBy(tool.Width))).ToList();
            var covered = lines.Select((l, i) => areas[i] * InfillStrokes.Coverage(l.Path, each[i], l.Line.WidthBy(tool.Width))).Sum();
            IReadOnlyList<VectorPath> strokes = [.. each.SelectMany(e => e)];
            return new InfillPlate(KeyOf(c), c is null ? "outlines only" : c.Kind switch
            {
                InfillKind.Echo => "echo lines",
                InfillKind.Spiral => "spiral",
                InfillKind.Hatch => "hatch",
                _ => "crossed",
            }, c, strokes, machine is null ? null : times * RunPlanner.SecondsFor([.. strokes], tool, machine, setting), area > 0 ? covered / area : 1);
        }), cancel);
        return Partial("_Infills", this);
    }

    /// <summary>Fills lines, or leaves them as outlines.</summary>
    /// <param name="angle">In degrees; open keeps the usual.</param>
    public Task<IActionResult> OnPostInfillAsync(Guid basedOn, string? ids, string? fill, string? angle, CancellationToken cancel)
    {
        if (fill is null or "none") return Change(basedOn, new SetInfill(Named(ids), null), cancel);
        if (!Enum.TryParse<InfillKind>(fill, true, out var kind) || !Enum.IsDefined(kind)) return Say("That way to fill is not known.", cancel);
        var turn = 45.0;
        if (!string.IsNullOrWhiteSpace(angle) && !double.TryParse(angle.Replace("°", "", StringComparison.Ordinal).Trim(),
            System.Globalization.CultureInfo.InvariantCulture, out turn)) return Say("An angle is a number of degrees: 45.", cancel);
        if (!double.IsFinite(turn) || Math.Abs(turn) > 360) return Say("An angle goes from -360 to 360 degrees.", cancel);
        var infill = new Infill(kind, kind is InfillKind.Hatch or InfillKind.Crossed ? Angle.FromDegrees(turn) : Angle.Zero);
        return Change(basedOn, new SetInfill(Named(ids), infill), cancel);
    }
}

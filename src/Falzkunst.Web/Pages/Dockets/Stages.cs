using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Strength;
using Falzkunst.Store;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>What the stages of a docket tell their state from.</summary>
/// <param name="Leader">The docket on whose sheets its pieces go, which layout and runs are of; null where it has its own.</param>
public sealed record DocketFacts(Design? Design, int Files, int Stops, LayoutRow? Row, DocketLayout? Plan, bool LayoutIsCurrent, RunRow? LastRun,
    int DoneSheets, IReadOnlyList<Stock> Drawer, bool IsInspecting, int? Leader)
{
    public bool IsLayingOut => Row is { State: WorkState.Waiting or WorkState.Working };

    /// <summary>Whose sheets they are, where they are another docket's.</summary>
    public string OnWhose => Leader is { } number ? $", with docket {number}" : "";

    /// <summary>Whether there is a layout of what the docket is now.</summary>
    public bool IsLaidOut => Plan is not null && LayoutIsCurrent && !IsLayingOut;
}

/// <summary>A state in words, and how it is shown.</summary>
/// <param name="Tone">"" where work can go on, "is-warn", "is-stop" or "is-waiting".</param>
public sealed record StageState(string Words, string Tone = "");

/// <summary>One of the seven stages: its number, name and place, and how a docket stands in it.</summary>
public abstract class Stage(int number, string name, string path)
{
    public static IReadOnlyList<Stage> All { get; } =
        [new BringInStage(), new BuildStage(), new StrengthenStage(), new PrintStage(), new LayOutStage(), new RunStage(), new AssembleStage()];

    public int Number => number;

    public string Name => name;

    public string Path => path;

    public abstract StageState Of(DocketFacts d);
}

internal sealed class BringInStage() : Stage(1, "Bring in", "bring-in")
{
    public override StageState Of(DocketFacts d) => d.Design switch
    {
        null => new(d.Files > 0 ? "waits for your choice" : "no file yet"),
        { Scale.IsKnown: false } => new("size is not settled", "is-warn"),
        var design when DocketParts.DoubtsOf(design).Count is > 0 and var n => new(Words.Count(n, "question")),
        var design when d.Files == 0 => new("begun without a file"),
        var design => new($"{Words.Count(d.Files, "file")}, {Words.Count(DocketParts.LooksOf(design).Count, "look")}"),
    };
}

internal sealed class BuildStage() : Stage(2, "Build", "build")
{
    public override StageState Of(DocketFacts d) => d.Design switch
    {
        null => new("waits for 1"),
        _ when d.Stops > 0 => new(Words.Count(d.Stops, "stop") + " to mend", "is-stop"),
        var design => new($"{Words.Count(design.Plies.Length, "ply", "plies")}, {Words.Count(design.Pieces.Length, "piece")}"),
    };
}

internal sealed class StrengthenStage() : Stage(3, "Strengthen", "strengthen")
{
    public override StageState Of(DocketFacts d)
    {
        if (d.Design is not { } design) return new("waits for 1", "is-waiting");
        if (!design.Papers.Any()) return new("nothing to look at", "is-waiting");
        if (d.IsInspecting) return new("is looked at …");
        var seen = CardInspection.Of(design, p => Stocks.Bears(design, p, d.Drawer), false);
        var (thin, specks) = (seen.Thin.Count(), seen.Specks.Count());
        return thin > 0 ? new(Words.Count(thin, "thin place"), "is-warn") : specks > 0 ? new(Words.Count(specks, "speck")) : new("strong enough");
    }
}

internal sealed class PrintStage() : Stage(4, "Print", "print")
{
    public override StageState Of(DocketFacts d)
    {
        var printed = d.Design?.Papers.Count(p => p.IsPrinted) ?? 0;
        return printed == 0 ? new("nothing printed", "is-waiting")
            : d.Design!.Print is { } print
                ? new($"{Words.Count(printed, "piece")}, {(print.Marks is { } kind ? kind.Word() : "no marks")}")
            : new($"{Words.Count(printed, "piece")} to print", "is-waiting");
    }
}

internal sealed class LayOutStage() : Stage(5, "Lay out", "lay-out")
{
    public override StageState Of(DocketFacts d)
    {
        if (d.IsLayingOut) return new("laying out …");
        if (d.Row is { State: WorkState.Failed }) return new("could not be done", "is-warn");
        if (d.Plan is null) return new("not yet" + d.OnWhose, "is-waiting");
        if (!d.LayoutIsCurrent) return new("out of date" + d.OnWhose, "is-warn");
        var uncut = d.Plan.NotCut.Count();
        return new($"{Words.Count(d.Plan.Sheets.Length, "sheet")}, {d.Plan.Utilisation:P0}{(uncut > 0 ? $", {uncut} not cut" : "")}{d.OnWhose}",
            d.Plan.Unplaced.IsEmpty ? "" : "is-warn");
    }
}

internal sealed class RunStage() : Stage(6, "Run", "run")
{
    public override StageState Of(DocketFacts d)
    {
        var tone = d.IsLaidOut ? "" : "is-waiting";
        if (d.LastRun is { IsActive: true } run) return new(run.Asks.Length > 0 ? "waits for you"
            : $"sheet {run.Sheet + 1} is running", tone);
        if (!d.IsLaidOut) return new("waits for 5", tone);
        return new((d.DoneSheets > 0 ? $"{d.DoneSheets} of {d.Plan!.Sheets.Length} sheets done" : "ready") + d.OnWhose, tone);
    }
}

internal sealed class AssembleStage() : Stage(7, "Assemble", "assemble")
{
    public override StageState Of(DocketFacts d) => new("not built yet", "is-waiting");
}

using Falzkunst.Core.Documents;
using Falzkunst.Core.Runs;
using Microsoft.AspNetCore.Identity;

namespace Falzkunst.Store;

/// <summary>A person with a sign-in; belongs to one studio.</summary>
public sealed class Account : IdentityUser<Guid>
{
    public string FullName { get; set; } = "";
    public Guid StudioId { get; set; }

    /// <summary>Whether it may change who works in the studio, the studio itself, and its machines. Every studio has one at least; all others are
    /// makers.</summary>
    public bool IsOwner { get; set; }

    /// <summary>"mm" or "in": what lengths are shown in.</summary>
    public string Unit { get; set; } = "mm";
}

/// <summary>Whoever works together; everything belongs to a studio, and nobody sees another's.</summary>
public sealed class Studio
{
    public Guid Id { get; set; }
    public string Name { get; set; } = "";

    /// <summary>How far folds stop short of the edge, in mm.</summary>
    public double FoldSetbackMm { get; set; } = Core.Cards.Folds.DefaultSetback.Mm;

    /// <summary>The number of the last docket; the next one is one more.</summary>
    public int LastDocketNumber { get; set; }
}

/// <summary>What belongs to a studio and is only ever shown to it.</summary>
public interface IOfStudio
{
    Guid StudioId { get; }
}

/// <summary>
/// A link that lets somebody in once: into a studio, or back into an account whose password is lost. Only the hash of what stands in it is kept.
/// </summary>
public sealed class EntryLink : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }

    /// <summary>The SHA-256 of the link's secret, as 64 hexadecimal digits.</summary>
    public string Hash { get; set; } = "";

    /// <summary>The account that gets a new password; null for an invitation.</summary>
    public Guid? AccountId { get; set; }

    /// <summary>Whether whoever comes by the invitation is an owner.</summary>
    public bool IsOwner { get; set; }

    /// <summary>Whom it is for, in the words of whoever made it.</summary>
    public string For { get; set; } = "";

    /// <summary>Who made it; it goes with that account. Null where the application's own command did.</summary>
    public Guid? MadeById { get; set; }
    public DateTimeOffset EndsAt { get; set; }
}

/// <summary>One card to be produced.</summary>
public sealed class Docket : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public int Number { get; set; }
    public string Name { get; set; } = "";
    public int Copies { get; set; } = 1;
    public Guid? MachineId { get; set; }

    /// <summary>Whether all sheets are done with one tool first, then all with the next, where that saves time.</summary>
    public bool ByTool { get; set; }

    /// <summary>What people call the printer that it is printed with; empty where there is but one.</summary>
    public string Printer { get; set; } = "";

    /// <summary>How it is run otherwise than its papers say, as JSON (<see cref="RunWishes"/>); empty for as they say.</summary>
    public string RunAs { get; set; } = "";

    /// <summary>The same as the core knows it.</summary>
    public RunWishes Wishes => RunDocument.ReadWishes(RunAs);

    /// <summary>The docket whose sheets its pieces go on (<see cref="LaidTogether"/>); null where it has sheets of its own.</summary>
    public Guid? LaidWithId { get; set; }

    /// <summary>The revision that is shown; null while nothing was brought in. Two people who write at once are told apart by it: it goes on only from what it
    /// was.</summary>
    public Guid? CurrentRevisionId { get; set; }

    /// <summary>The newest revision on the way that redo takes; the current one, or what was undone.</summary>
    public Guid? TipRevisionId { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
    public DateTimeOffset ChangedAt { get; set; }

    /// <summary>When it was put into the archive; null while it lies on the worktop.</summary>
    public DateTimeOffset? ArchivedAt { get; set; }

    /// <summary>When it was deleted. It can be restored for thirty days, then it is thrown away; until then only the list of what is deleted sees it.</summary>
    public DateTimeOffset? DeletedAt { get; set; }
}

/// <summary>
/// A design as it was after one change, as a small document that names its blobs. Never changed itself; the newest may give way to one that also holds the next
/// small step of the
/// same gesture.
/// </summary>
public sealed class Revision : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public Guid DocketId { get; set; }
    public Guid? ParentId { get; set; }

    /// <summary>What the change did: "Score 3 lines".</summary>
    public string What { get; set; } = "";
    public string ByName { get; set; } = "";
    public DateTimeOffset At { get; set; }

    /// <summary>The document, compressed; with the document of <see cref="BaseId"/> as the dictionary where that is set. Of schema 1: our own file, in
    /// gzip.</summary>
    public byte[] Document { get; set; } = [];

    /// <summary>The SHA-256 of <see cref="Document"/>; empty in those of schema 1.</summary>
    public byte[] Seal { get; set; } = [];

    /// <summary>The revision whose document this one is told by its difference to; null where it stands alone.</summary>
    public Guid? BaseId { get; set; }
    public int Schema { get; set; }

    /// <summary>The edit that made it, compressed; empty where that is not known.</summary>
    public byte[] Edit { get; set; } = [];

    /// <summary>The kind of the edit, as it is called in documents: "move".</summary>
    public string Kind { get; set; } = "";

    /// <summary>What small steps of one gesture have in common; empty where the change stands alone.</summary>
    public string Gesture { get; set; } = "";

    /// <summary>What the list of dockets says, so that it reads no design; −1 where that was not counted yet.</summary>
    public int Pieces { get; set; } = -1;
    public int Plies { get; set; }
    public int Lines { get; set; }
    public int Pictures { get; set; }
}

/// <summary>Bytes under the hash of them: outlines, pictures, and files as they were brought. Shared by everything of a studio that holds the same.</summary>
public sealed class BlobRow : IOfStudio
{
    public Guid StudioId { get; set; }

    /// <summary>The SHA-256, as 64 hexadecimal digits.</summary>
    public string Hash { get; set; } = "";
    public byte[] Bytes { get; set; } = [];

    /// <summary>When it was last written; what is new is never taken for waste.</summary>
    public DateTimeOffset At { get; set; }
}

/// <summary>That a docket refers to a blob, in whichever of its revisions or files. Goes with the docket.</summary>
public sealed class BlobUse
{
    public Guid DocketId { get; set; }
    public Guid StudioId { get; set; }
    public string Hash { get; set; } = "";
}

/// <summary>A file as it was brought in; it can be downloaded again.</summary>
public sealed class SourceFile : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public Guid DocketId { get; set; }
    public string Name { get; set; } = "";

    /// <summary>The folder that it came in, on a disk or in an archive; empty where it came alone.</summary>
    public string Folder { get; set; } = "";
    public string MediaType { get; set; } = "";

    /// <summary>The blob of its bytes.</summary>
    public string Content { get; set; } = "";
    public int Size { get; set; }
    public DateTimeOffset At { get; set; }
}

/// <summary>A piece, a base or a whole design that was kept under a name, to be taken into any docket.</summary>
public sealed class KeptRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public string Name { get; set; } = "";

    /// <summary>The design as a file of our own, packed.</summary>
    public byte[] Document { get; set; } = [];
    public double WidthMm { get; set; }
    public double HeightMm { get; set; }
    public int Pieces { get; set; }
    public DateTimeOffset At { get; set; }

    /// <summary>Whether it is a tile that pieces are filled with.</summary>
    public bool IsTile { get; set; }

    /// <summary>When it was taken off; null while it is there.</summary>
    public DateTimeOffset? DeletedAt { get; set; }
}

/// <summary>Rules of a source, under the name that a person gave it.</summary>
public sealed class RulesRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public string Name { get; set; } = "";

    /// <summary>The rules as JSON.</summary>
    public string Document { get; set; } = "";
    public DateTimeOffset ChangedAt { get; set; }
}

/// <summary>A paper in the drawer, or patches of foil.</summary>
public sealed class StockRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public string Name { get; set; } = "";
    public string ColourHex { get; set; } = "#ffffff";

    /// <summary>"paper", or "foil", which pieces are never laid out on.</summary>
    public string Kind { get; set; } = "paper";
    public double WeightGsm { get; set; }
    public double ThicknessMm { get; set; }

    /// <summary>The narrowest limb that it bears, and the narrowest gap that can be cut in it.</summary>
    public double MinWidthMm { get; set; } = 0.8;
    public double MinGapMm { get; set; } = 0.5;
    public int Place { get; set; }

    /// <summary>When it was retired; layouts take no sheets of it any more.</summary>
    public DateTimeOffset? RetiredAt { get; set; }
    public List<SheetRow> Sheets { get; set; } = [];
    public List<MaterialSettingRow> Settings { get; set; } = [];
}

/// <summary>Sheets of one size of a stock.</summary>
public sealed class SheetRow
{
    public Guid Id { get; set; }
    public Guid StockId { get; set; }
    public double WidthMm { get; set; }
    public double HeightMm { get; set; }
    public int Count { get; set; }
    public double MarginMm { get; set; }

    /// <summary>What one costs; null where nobody said.</summary>
    public double? Price { get; set; }

    /// <summary>Which way its fibres run: "down", "across", or empty where nobody said.</summary>
    public string Grain { get; set; } = "";

    /// <summary>The run that left it, where it is an off-cut; null for whole sheets.</summary>
    public Guid? LeftByRunId { get; set; }

    /// <summary>The outline of an off-cut, as SVG path data in mm; empty for a rectangle.</summary>
    public string Left { get; set; } = "";
}


/// <summary>The numbers with which a tool works a stock.</summary>
public abstract class SettingNumbers
{
    public Guid StockId { get; set; }
    public string ToolKey { get; set; } = "";
    public int Passes { get; set; } = 1;
    public double ForceGrams { get; set; }
    public double SpeedMmS { get; set; }

    /// <summary>How far closed cuts go on beyond their start; null for the usual.</summary>
    public double? OvercutMm { get; set; }

    /// <summary>How far the blade is set out by hand; null where that is not said.</summary>
    public double? DepthMm { get; set; }

    /// <summary>How far the tool is lifted between lines; null for the usual.</summary>
    public double? LiftMm { get; set; }
    public bool PassesTogether { get; set; }

    /// <summary>As the core knows them.</summary>
    public virtual MaterialSetting ToCore() => new(StockId.ToString("N"), ToolKey, Passes, ForceGrams, SpeedMmS)
    {
        Overcut = OvercutMm is { } o ? Length.FromMm(o) : null,
        Depth = DepthMm is { } d ? Length.FromMm(d) : null,
        Lift = LiftMm is { } l ? Length.FromMm(l) : null,
        PassesTogether = PassesTogether,
    };

    /// <summary>Takes the numbers over; of which stock and tool they are stays.</summary>
    public void Take(MaterialSetting numbers)
    {
        (Passes, ForceGrams, SpeedMmS, PassesTogether) = (numbers.Passes, numbers.ForceGrams, numbers.SpeedMmS, numbers.PassesTogether);
        (OvercutMm, DepthMm, LiftMm) = (numbers.Overcut?.Mm, numbers.Depth?.Mm, numbers.Lift?.Mm);
    }
}

/// <summary>How a tool works a stock.</summary>
public sealed class MaterialSettingRow : SettingNumbers
{
    public Guid Id { get; set; }

    /// <summary>Whether this tool is taken for the stock, where there are several for the same operation.</summary>
    public bool Chosen { get; set; }

    public override MaterialSetting ToCore() => base.ToCore() with { Chosen = Chosen };
}

/// <summary>How a tool worked a stock once: kept for ever, so that what worked can be had again.</summary>
public sealed class SettingPastRow : SettingNumbers, IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public DateTimeOffset At { get; set; }

    /// <summary>Where it came from: "by hand", "from a test card", "run of docket 41".</summary>
    public string Why { get; set; } = "";

    /// <summary>Whether a sheet was finished with it; otherwise it was only set.</summary>
    public bool Worked { get; set; }
}

/// <summary>A cutting machine of the studio, and where it listens.</summary>
public sealed class MachineRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public string Name { get; set; } = "";
    public double WidthMm { get; set; }
    public double HeightMm { get; set; }
    public int Holders { get; set; }
    public double SpeedMmS { get; set; }
    public double TravelMmS { get; set; }
    public double AccelerationMmS2 { get; set; }
    public double LiftSeconds { get; set; }

    /// <summary>Whether sheets are fed in between rollers, instead of lying on a mat.</summary>
    public bool IsRoll { get; set; }

    /// <summary>What it is told its work in.</summary>
    public MachineLanguage Language { get; set; }

    /// <summary>The most that it presses with; 0 where nobody said.</summary>
    public double MostForceGrams { get; set; }

    /// <summary>How many levels its force has; 0 where it is told grams.</summary>
    public int ForceLevels { get; set; }
    public double StepsPerMm { get; set; } = Plotter.UnitsPerMm;

    /// <summary>Where it takes its work, on this computer.</summary>
    public int Port { get; set; }

    /// <summary>Where it can be asked what it did; null for machines that can't tell.</summary>
    public int? RecordPort { get; set; }

    /// <summary>Whether it has an eye that finds printed marks.</summary>
    public bool ReadsMarks { get; set; } = true;
    public int Place { get; set; }

    /// <summary>What it holds, as people confirmed it, as JSON; empty where nobody knows.</summary>
    public string Held { get; set; } = "";

    public MachineSetup Setup => (Held.Length == 0 ? null : RunDocument.ReadSetup(Held))?.On(Holders) ?? MachineSetup.Unknown(Holders);
}

/// <summary>A tool in the studio's drawer. There is always one for each operation that needs one.</summary>
public sealed class ToolRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public string Key { get; set; } = "";
    public string Name { get; set; } = "";
    public string Operation { get; set; } = "";
    public int Pen { get; set; }
    public double SpeedMmS { get; set; }

    /// <summary>From the tip of a blade that swivels to its axis; 0 for what does not swivel.</summary>
    public double SwivelMm { get; set; }

    /// <summary>How wide a line it makes; 0 for what cuts.</summary>
    public double WidthMm { get; set; }

    /// <summary>How long it heats up; 0 for what is cold.</summary>
    public int HeatSeconds { get; set; }

    /// <summary>How long what it makes dries before the next tool; 0 where nobody waits for it.</summary>
    public int DrySeconds { get; set; }

    /// <summary>The only holder that takes it, from 1; null where all do.</summary>
    public int? OnlyHolder { get; set; }
}

public enum WorkState
{
    Waiting,
    Working,
    Done,
    Stopped,
    Failed,

    /// <summary>A run that waits for a person. Nothing works on it meanwhile.</summary>
    Asking,
}

/// <summary>A docket that a layout was made of besides its own, as it was then.</summary>
public sealed record LaidDocket
{
    public required Guid DocketId { get; init; }
    public required int Number { get; init; }
    public required Guid RevisionId { get; init; }
    public required int Copies { get; init; }
}

/// <summary>A layout of a docket: asked for, under way, or finished, with the best so far.</summary>
public sealed class LayoutRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public Guid DocketId { get; set; }
    public Guid RevisionId { get; set; }
    public int Copies { get; set; }

    /// <summary>The other dockets whose pieces lie on its sheets.</summary>
    public List<LaidDocket> With { get; set; } = [];

    /// <summary>The hash of what it was made from; where it differs from the docket's, the layout is out of date.</summary>
    public string MadeFrom { get; set; } = "";
    public WorkState State { get; set; }
    public double Fraction { get; set; }
    public string Text { get; set; } = "";

    /// <summary>While it is under way: how good the best so far is, in words.</summary>
    public string Best { get; set; } = "";
    public bool StopAsked { get; set; }
    public DateTimeOffset At { get; set; }

    /// <summary>When the worker last said that it is alive.</summary>
    public DateTimeOffset SeenAt { get; set; }

    /// <summary>The layout as JSON; empty until there is one that was checked.</summary>
    public string Document { get; set; } = "";

    /// <summary>While it is under way: the best so far that was checked, as JSON; empty where there is none.</summary>
    public string BestDocument { get; set; } = "";

    /// <summary>The layout that undo goes back to; null where there is none that still holds.</summary>
    public Guid? ParentId { get; set; }

    /// <summary>What was done to get here from there: "Move “Sky”".</summary>
    public string What { get; set; } = "";

    /// <summary>Whether it was undone. Redo takes it back, until another change is made.</summary>
    public bool Undone { get; set; }

    /// <summary>Whether what is pinned in the parent stays where it lies.</summary>
    public bool KeepsPins { get; set; }

    /// <summary>The sheets, from 0, that are as in a layout before this one, of which they were cut.</summary>
    public int[] CutBefore { get; set; } = [];
}

/// <summary>A printed sheet as it was seen, and what was read of its marks.</summary>
public sealed class PaperRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public Guid DocketId { get; set; }
    public Guid LayoutId { get; set; }

    /// <summary>The sheet of the layout, from 0.</summary>
    public int Sheet { get; set; }

    /// <summary>"machine" where a machine's reader saw it on its mat, "scan" or "photograph" where somebody brought a picture.</summary>
    public string By { get; set; } = "";

    /// <summary>The SHA-256 of the picture.</summary>
    public string Picture { get; set; } = "";
    public double PxPerMm { get; set; }

    /// <summary>From the picture's upper left corner to what the map is measured in.</summary>
    public double LeftMm { get; set; }
    public double TopMm { get; set; }

    /// <summary>Why the marks could not be read; empty where they were.</summary>
    public string Why { get; set; } = "";

    /// <summary>From mm of the sheet to what was seen, A to H of the projective map; empty where the marks could not be read.</summary>
    public double[] Map { get; set; } = [];
    public double ResidualMm { get; set; }
    public double UncertainMm { get; set; }

    /// <summary>How the print lies on the cut, as JSON; empty where the marks could not be read.</summary>
    public string Proof { get; set; } = "";
    public DateTimeOffset At { get; set; }
}

/// <summary>What was found out of a machine with sheets of a printer; the newest holds.</summary>
public sealed class CalibrationRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public Guid MachineId { get; set; }

    /// <summary>What people call the printer; empty where there is but one.</summary>
    public string Printer { get; set; } = "";

    /// <summary>From where a cut belongs to where the tool comes down.</summary>
    public double RightMm { get; set; }
    public double DownMm { get; set; }

    /// <summary>How long 100 mm are in print.</summary>
    public double AcrossMm { get; set; }
    public double AlongMm { get; set; }

    /// <summary>"typed", "scan" or "machine".</summary>
    public string By { get; set; } = "";
    public DateTimeOffset At { get; set; }
}

/// <summary>A plan of a layout on a machine. What is shown is what is checked and what is sent.</summary>
public sealed class RunPlanRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public Guid DocketId { get; set; }
    public Guid LayoutId { get; set; }
    public Guid MachineId { get; set; }

    /// <summary>The hash of what it was made from: the layout, its design, the machine, the settings and the drawer.</summary>
    public string MadeFrom { get; set; } = "";

    /// <summary>The plan, compressed.</summary>
    public byte[] Document { get; set; } = [];
    public DateTimeOffset At { get; set; }
}

/// <summary>What is printed and read beside a machine, sheet after sheet, or its calibration page: work that one sees the state of, and can stop.</summary>
public sealed class PressRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public Guid DocketId { get; set; }
    public Guid LayoutId { get; set; }
    public Guid MachineId { get; set; }

    /// <summary>The numbers of the sheets, from 1; none for the calibration page.</summary>
    public int[] Sheets { get; set; } = [];

    /// <summary>How many of them are printed and read.</summary>
    public int Done { get; set; }

    /// <summary>Whether the calibration page is printed first, and laid on the mat; otherwise it lies there.</summary>
    public bool Prints { get; set; }
    public WorkState State { get; set; }

    /// <summary>What is going on; once it is over, what came of it.</summary>
    public string Text { get; set; } = "";
    public bool StopAsked { get; set; }
    public DateTimeOffset At { get; set; }

    /// <summary>When its worker last gave a sign.</summary>
    public DateTimeOffset SeenAt { get; set; }

    public bool IsCalibration => Sheets.Length == 0;
}

/// <summary>One sheet through the machine. It waits as data: a worker has it only while the machine works.</summary>
public sealed class RunRow : IOfStudio
{
    public Guid Id { get; set; }
    public Guid StudioId { get; set; }
    public Guid DocketId { get; set; }
    public Guid LayoutId { get; set; }
    public Guid MachineId { get; set; }

    /// <summary>What is done; null only in runs of before plans were kept.</summary>
    public Guid? PlanId { get; set; }

    /// <summary>The sheet of the layout, from 0.</summary>
    public int Sheet { get; set; }
    public WorkState State { get; set; }

    /// <summary>The step under way or next, from 1; 0 until the machine was spoken to.</summary>
    public int Step { get; set; }

    /// <summary>How many strokes of the step the machine has done.</summary>
    public int Strokes { get; set; }

    /// <summary>How many strokes the machine remembered from before this run.</summary>
    public int RecordFrom { get; set; }
    public double Fraction { get; set; }

    /// <summary>What a person is asked to do, or what the machine waits for; empty while it works.</summary>
    public string Asks { get; set; } = "";

    /// <summary>Where the sheet lies on the mat, as its marks say: A to F of an affine map; empty where there are none, or until they were read.</summary>
    public double[] Lies { get; set; } = [];

    /// <summary>From a sheet as it was planned to where it lies on the mat; null where it lies as planned.</summary>
    public Affine? Map => Lies is [var a, var b, var c, var d, var e, var f] ? new(a, b, c, d, e, f) : null;

    /// <summary>A sheet of the plan as it lies on the mat.</summary>
    public SheetRun Placed(SheetRun sheet) => Map is { } map ? sheet.Placed(map) : sheet;

    /// <summary>How often a person was asked. An answer says which question it is for, so that a second click answers nothing that was not asked yet.</summary>
    public int Asked { get; set; }
    public bool StopAsked { get; set; }

    /// <summary>The worker that has it in hand.</summary>
    public Guid? Owner { get; set; }
    public DateTimeOffset StartedAt { get; set; }

    /// <summary>When its worker last gave a sign.</summary>
    public DateTimeOffset SeenAt { get; set; }
    public DateTimeOffset? EndedAt { get; set; }

    /// <summary>Whether somebody wants it to hold for now.</summary>
    public bool HoldAsked { get; set; }

    /// <summary>The run that this one goes on from, on the same sheet; null where it begins one.</summary>
    public Guid? AfterId { get; set; }

    /// <summary>Whether it repeats a part of a sheet that is done, or is a test card.</summary>
    public bool IsTouchUp { get; set; }

    public bool IsTest => IsTouchUp && AfterId is null;

    /// <summary>Which sheet of paper it works: the id of the run that this was taken for, which may be itself.</summary>
    public Guid PaperId { get; set; }

    /// <summary>Whether that was taken out of the drawer with this run.</summary>
    public bool TookSheet { get; set; }

    /// <summary>Where the foil of the step that is asked for really lies, in mm on the sheet: left, top, right and bottom of each patch; empty where it lies as
    /// planned.</summary>
    public double[] FoilLies { get; set; } = [];

    /// <summary>The foil of a step, as somebody told where it lies, otherwise as planned.</summary>
    public IReadOnlyList<Box> PatchesOf(RunStep step) => FoilLies.Length != 4 * step.Patches.Length ? step.Patches
        : [.. FoilLies.Chunk(4).Select(p => new Box(p[0], p[1], p[2], p[3]))];

    /// <summary>The plan of all that is done on the sheet, where this run does a round of it only.</summary>
    public Guid? WholeId { get; set; }

    /// <summary>Whether some of the sheet is left for another load on purpose: all sheets are done with one tool first.</summary>
    public bool LeavesRest { get; set; }

    /// <summary>What the machine says it really did, as JSON.</summary>
    public string Record { get; set; } = "";
    public List<RunEvent> Events { get; set; } = [];

    /// <summary>The states in which a run is not over. A machine has at most one such run.</summary>
    public static readonly WorkState[] Active = [WorkState.Waiting, WorkState.Working, WorkState.Asking];

    public bool IsActive => Active.Contains(State);
}

/// <summary>Something that happened in a run.</summary>
public sealed class RunEvent
{
    public Guid Id { get; set; }
    public Guid RunId { get; set; }
    public DateTimeOffset At { get; set; }
    public int Step { get; set; }
    public string Text { get; set; } = "";
}

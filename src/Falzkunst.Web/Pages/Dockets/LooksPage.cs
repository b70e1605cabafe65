using System.Collections.Immutable;
using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Shapes;
using Falzkunst.Store;
using Falzkunst.Web.Table;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>A stage with the design on the table, the look table, and what is chosen.</summary>
public abstract class LooksPage(DocketParts parts) : DocketPage(parts)
{
    public const int ShownHoles = 24;

    private const int MostChosen = 20_000, LongestWayMm = 10_000;

    public string Look { get; private set; } = "";

    /// <summary>The one piece that is chosen; null where none is, or several are.</summary>
    public Piece? Piece { get; private set; }

    public LaidLine? Line { get; private set; }

    /// <summary>The picture or pattern that is chosen; null where none is.</summary>
    public LaidArtwork? Print { get; private set; }

    /// <summary>The pieces that are chosen, where they are several.</summary>
    public IReadOnlyList<Piece> Several { get; private set; } = [];

    /// <summary>All lines that are chosen.</summary>
    public IReadOnlyList<LaidLine> Lines { get; private set; } = [];

    /// <summary>The chosen holes: each its piece, and its number among the rings of that.</summary>
    public IReadOnlyList<(Piece Piece, int Ring)> Rings { get; private set; } = [];

    /// <summary>The ids of all that is chosen, as <see cref="Become"/> takes them.</summary>
    public string ThingIds => string.Join(',', ChosenPieces.Select(p => p.Id).Concat(Lines.Select(l => l.Id)).Concat(Print is { } art ? [art.Id] : [])
        .Concat(Rings.Select(r => RingId.Of(r.Piece.Id, r.Ring))));

    /// <summary>The look that all that is chosen has; empty where it has several.</summary>
    public string ThingLook => ChosenPieces.Select(p => p.Look).Concat(Lines.Select(l => l.Look))
        .Concat(Rings.Select(r => r.Piece.Edges[r.Ring].Origin?.Look ?? ""))
        .Distinct(StringComparer.Ordinal).ToList() is [var one] ? one : "";

    /// <summary>How many of what is chosen, in words: "2 lines, 1 hole".</summary>
    public string ThingsInWords => string.Join(", ", new[] { (ChosenPieces.Count, "piece"), (Lines.Count, "line"), (Rings.Count, "hole") }
        .Where(t => t.Item1 > 0).Select(t => Words.Count(t.Item1, t.Item2)));

    /// <summary>What stands open of what came in, one question for each thing that is unsure.</summary>
    public IReadOnlyList<Doubt> Doubts { get; private set; } = [];

    public int DoubtIndex { get; private set; }

    /// <summary>What each operation would do now.</summary>
    private (Design Of, IReadOnlyDictionary<Operation, double> Seconds)? _work;

    /// <summary>About how long each operation takes on one card; empty where there is no machine.</summary>
    public IReadOnlyDictionary<Operation, double> WorkSeconds
    {
        get
        {
            if (Design is not { } design || UsualMachine is not { } row) return new Dictionary<Operation, double>();
            if (!ReferenceEquals(_work?.Of, design)) _work = (design, Core.Runs.WorkTime.Of(design, Drawer.ToCore(row), Tools));
            return _work!.Value.Seconds;
        }
    }

    public IReadOnlyList<Work> Work => Design is { } d ? Core.Cards.Work.Of(d.Pieces, d.Loose) : [];

    /// <summary>What alone is shown on the table: the word of an operation, "stock", or nothing.</summary>
    public string Only => Request.Query["only"].ToString() is var only && (only == "stock" || Operations.TryRead(only, out _)) ? only : "";

    /// <summary>What would come of an edit, to lay on the table, and in words; why it can't be done otherwise.</summary>
    protected JsonResult Previewed(Edit? edit, string error)
    {
        if (Design is not { } design || edit is null) return new(new { says = error });
        if (edit.Refusal(design) is { } refusal) return new(new { says = refusal });
        var after = edit.Make(design);
        var known = design.Lines.Select(l => l.Id).ToHashSet(StringComparer.Ordinal);
        return new(new
        {
            comes = Comes(design, after),
            lines = VectorPath.Joined(after.Lines.Where(l => !known.Contains(l.Id)).Select(l => l.Path)).ToSvg(),
            says = edit.Describe(design) + ".",
        });
    }

    /// <summary>The outlines that are otherwise after an edit, as a path.</summary>
    protected static string Comes(Design before, Design after) =>
        VectorPath.Joined(after.Pieces.Where(p => before.Piece(p.Id) is not { } was || was.Place != p.Place || !was.Outline.Equals(p.Outline))
            .Select(p => p.OnCard)).ToSvg();

    /// <summary>The chosen pieces, however many.</summary>
    public IReadOnlyList<Piece> ChosenPieces => Piece is null ? Several : [Piece];

    /// <summary>The ids of what is chosen, as forms send them.</summary>
    public string ChosenIds => Line?.Id ?? Print?.Id ?? string.Join(',', ChosenPieces.Select(p => p.Id));

    public IReadOnlyList<LookRow> Looks { get; private set; } = [];

    /// <summary>Whether the plies lie beside one another.</summary>
    public bool Apart => Seen == "apart";

    /// <summary>How the card is looked at: "" from above, "apart" with its plies beside one another, "over" from behind, where the inner face is
    /// seen.</summary>
    public string Seen => Request.Query["view"].ToString() is var view && view is "apart" or "over" ? view : "";

    /// <summary>The address of the stage as it is looked at, with nothing chosen.</summary>
    public string Here => Address(StagePath) + (Seen.Length > 0 ? "?view=" + Seen : "");

    /// <summary>The address where one thing is chosen.</summary>
    public string Choose(string what, string id) => $"{Here}{(Seen.Length > 0 ? '&' : '?')}{what}={Uri.EscapeDataString(id)}";

    public string ChooseAll(IEnumerable<Piece> pieces) => Choose("pieces", string.Join(',', pieces.Select(p => p.Id)));

    /// <summary>How the table is dressed: small things, links, and what was chosen.</summary>
    public TableDress Dress(Design design) => TableSvg.Dress(design, Here, Docket.Number) with
    {
        Chosen = ThingIds.Split(',').ToHashSet(StringComparer.Ordinal),
        ChosenLook = Look,
        Only = Only,
        Stocks = Only == "stock" ? Stocks : [],
        Widths = ToolWidths,
        FromBehind = Seen == "over",
    };

    protected override Task ShowCard(CancellationToken cancel)
    {
        Look = ChosenOf("look");
        if (Design is null) return Task.CompletedTask;
        var named = Named(ChosenOf("pieces")).Select(Design.Piece).OfType<Piece>().Distinct().ToList();
        Piece = Design.Piece(ChosenOf("piece")) ?? (named.Count == 1 ? named[0] : null);
        Several = named.Count > 1 ? named : [];
        Lines = Named(ChosenOf("line")) is { IsEmpty: false } lines ? [.. lines.Distinct().Select(Design.Line).OfType<LaidLine>()] : [];
        Rings = [.. Named(ChosenOf("ring")).Distinct().Select(RingId.Read).OfType<(string Piece, int Ring)>()
            .Select(r => (Piece: Design.Piece(r.Piece)!, r.Ring)).Where(r => r.Piece is not null && r.Ring > 0 && r.Ring < r.Piece.Edges.Length
                && !r.Piece.IsOuter(r.Ring))];
        Line = Lines.Count == 1 && named.Count == 0 && Piece is null && Rings.Count == 0 ? Lines[0] : null;
        Print = Lines.Count == 0 && named.Count == 0 && Piece is null && ChosenOf("line") is { Length: > 0 } art ? Printed(Design, art) : null;
        Doubts = DocketParts.DoubtsOf(Design);
        DoubtIndex = int.TryParse(Request.Query["doubt"], out var at) && Doubts.Count > 0 ? Math.Clamp(at, 0, Doubts.Count - 1) : 0;
        Looks = DocketParts.LooksOf(Design);
        return Task.CompletedTask;
    }

    private static LaidArtwork? Printed(Design design, string id) => design.Artwork.FirstOrDefault(a => a.Id == id);

    protected override bool IsGone(string key, string value) => Design is { } d && key switch
    {
        "piece" => d.Piece(value) is null,
        "pieces" => !value.Split(',').Any(id => d.Piece(id) is not null),
        "line" => !value.Split(',').Any(id => d.Line(id) is not null || Printed(d, id) is not null),
        "ring" => !value.Split(',').Any(id => RingId.Read(id) is var (piece, ring) && d.Piece(piece) is { } p && ring < p.Edges.Length),
        _ => false,
    };

    protected override string? TableChanges(Design before) =>
        Design is null || Seen == "over" ? null : TableSvg
            .Changes(before, Design, Findings, Apart, TableSvg.Dress(Design, Here, Docket.Number) with
            {
                Only = Only,
                Stocks = Only == "stock" ? Stocks : [],
                Widths = ToolWidths,
            },
                Docket.CurrentRevisionId ?? Guid.Empty);

    /// <summary>Leaves out what is named, its carried things too; each can be put back just as it was.</summary>
    public Task<IActionResult> OnPostLeaveOutAsync(Guid basedOn, string ids, CancellationToken cancel) => Change(basedOn, new LeaveOut(Named(ids)), cancel);

    public Task<IActionResult> OnPostLookAsync(Guid basedOn, string look, string operation, CancellationToken cancel) =>
        Operations.TryRead(operation, out var wanted) ? Change(basedOn, new SetLookOperation(look ?? "", wanted), cancel)
            : OnPostBecomeAsync(basedOn, "", look ?? "", true, operation ?? "", false, cancel);

    /// <summary>Says what is chosen is, or all of its look.</summary>
    /// <param name="anyway">Whether it was said what can't be kept.</param>
    public Task<IActionResult> OnPostBecomeAsync(Guid basedOn, string ids, string look, bool all, string meaning, bool anyway, CancellationToken cancel)
    {
        if (!Enum.TryParse<Meaning>(meaning, true, out var wanted) || !Enum.IsDefined(wanted)) return Say("What that would be is not known.", cancel);
        if (Design is null) return Task.FromResult(Back());
        var become = new Become(all && !string.IsNullOrEmpty(look) ? LookMembers.Of(Design, look) : Named(ids), wanted);
        if (!anyway && become.Loses(Design) is { } loses)
        {
            Ask($"{loses} Nothing was changed yet.", "Do it all the same", new() { ["anyway"] = "true" });
            return Task.FromResult(Back());
        }

        return ChangeOrSay(basedOn, become, wanted switch
        {
            Meaning.Hole => "There is no paper around it that it could be a hole in; nothing was changed.",
            Meaning.Printed => "There is no paper below that it could be printed on; nothing was changed.",
            Meaning.Paper => "It encloses nothing, so no paper could be cut of it; nothing was changed.",
            _ => "It is that already.",
        }, cancel);
    }

    /// <summary>Makes a change, or says why it would be none.</summary>
    private Task<IActionResult> ChangeOrSay(Guid basedOn, Edit edit, string changesNothing, CancellationToken cancel) =>
        Design is null ? Task.FromResult(Back()) : edit.Apply(Design).Equals(Design) ? Say(changesNothing, cancel) : Change(basedOn, edit, cancel);

    /// <summary>Says that what is chosen is one: lines one outline or one fold, pieces the panels of one base.</summary>
    public Task<IActionResult> OnPostJoinAsync(Guid basedOn, string ids, string to, CancellationToken cancel) => to switch
    {
        "outline" => ChangeOrSay(basedOn, new JoinLines(Named(ids)), "Those lines enclose nothing together; nothing was changed.", cancel),
        "fold" => ChangeOrSay(basedOn, new JoinFolds(Named(ids)),
            "Those lines do not lie on one straight line with paper between them; nothing was changed.", cancel),
        _ => ChangeOrSay(basedOn, new JoinPanels(Named(ids)), "Those pieces do not lie edge on edge; nothing was changed.", cancel),
    };

    public Task<IActionResult> OnPostSwapAsync(Guid basedOn, string ids, CancellationToken cancel) =>
        Named(ids) is [var one, var other] ? Change(basedOn, new SwapBelow(one, other), cancel) : Say("Choose two pieces to swap.", cancel);

    public Task<IActionResult> OnPostBelongAsync(Guid basedOn, string ids, string piece, CancellationToken cancel) =>
        ChangeOrSay(basedOn, new CarryBy(Named(ids), piece ?? ""), "None of it lies on that piece; nothing was changed.", cancel);

    /// <summary>Answers a question about what came in.</summary>
    public Task<IActionResult> OnPostDoubtAsync(Guid basedOn, string key, Meaning choice, CancellationToken cancel)
    {
        var doubt = Design is null ? null : DocketParts.DoubtsOf(Design).FirstOrDefault(d => d.Key == key);
        return doubt?.Choices.FirstOrDefault(c => c.Meaning == choice) is { } chosen ? Change(basedOn, chosen.Edit, cancel)
            : Say("That question is answered already.", cancel);
    }

    /// <summary>Makes other pieces of some: "join p1,p2".</summary>
    public Task<IActionResult> OnPostCombineAsync(Guid basedOn, string how, CancellationToken cancel) => (how ?? "").Split(' ') is [var word, var ids]
        && Combination.Read(word, Named(ids)) is { } edit ? Change(basedOn, edit, cancel) : Say("That can't be done with what is chosen.", cancel);

    /// <summary>Takes the shapes of some pieces out of what lies below them.</summary>
    /// <param name="through">How many plies they go through; empty is all.</param>
    /// <param name="hidden">Plies that nobody sees now.</param>
    public Task<IActionResult> OnPostPunchAsync(Guid basedOn, string ids, int? through, string? hidden, CancellationToken cancel) =>
        Named(ids) is [var first, .. var others]
            ? Change(basedOn, new Punch(first) { Also = [.. others], Through = through, But = Named(hidden ?? "") }, cancel)
            : Say("Choose a piece first.", cancel);

    /// <summary>Moves what is named by so much: a drag or arrow keys send millimetres and their gesture, a person types lengths.</summary>
    public Task<IActionResult> OnPostMoveAsync(Guid basedOn, string ids, string right, string down, string? gesture, CancellationToken cancel)
    {
        if (!Read(right, out var x, out var error) || !Read(down, out var y, out error)) return Say(error, cancel);
        if (Math.Abs(x.Mm) > LongestWayMm || Math.Abs(y.Mm) > LongestWayMm) return Say("That is farther than ten metres; it was not moved.", cancel);
        return Change(basedOn, new Move(Named(ids), x, y), cancel, gesture ?? "");

        bool Read(string? text, out Length length, out string error)
        {
            // What a script sends is millimetres, whatever the unit of the person.
            if (gesture is { Length: > 0 } && double.TryParse(text, CultureInfo.InvariantCulture, out var mm) && double.IsFinite(mm))
            {
                (length, error) = (Length.FromMm(mm), "");
                return true;
            }

            return ReadWay(text, out length, out error);
        }
    }

    /// <summary>Aligns pieces: "left", "middle", "centre middle".</summary>
    /// <param name="each">Whether each of several goes there by itself; otherwise they go together.</param>
    public Task<IActionResult> OnPostAlignAsync(Guid basedOn, string ids, string? to, string? at, string? inset, bool each, CancellationToken cancel)
    {
        if (!ReadWay(inset, out var by, out var error)) return Say(error, cancel);
        return Align.Read(at ?? "") is var (across, down)
            ? Change(basedOn, new Align(Named(ids), to ?? "page", across, down, by) { AsOne = !each }, cancel)
            : Say("Say where to: left, centre or right, top, middle or bottom.", cancel);
    }

    /// <summary>Makes the gaps between pieces equal.</summary>
    public Task<IActionResult> OnPostSpreadAsync(Guid basedOn, string ids, bool across, CancellationToken cancel) =>
        Change(basedOn, new Spread(Named(ids), across), cancel);

    private IReadOnlyList<(string To, string Words)>? _targets;

    /// <summary>What the chosen pieces, or the chosen line, could be aligned to: what they lie in first, the smallest of that before all; then the panels and
    /// pieces that lie below them, each other, the page. Several groups of the card ask for it.</summary>
    public IReadOnlyList<(string To, string Words)> Targets => _targets ??= TargetsOf(Design!, ChosenPieces, Line?.By ?? Print?.By,
        Align.Around(Design!, Named(ChosenIds)));

    /// <summary>Those of them that stay where they are: all but "each other".</summary>
    public IEnumerable<(string To, string Words)> FixedTargets => Targets.Where(t => t.To != "all");

    private static List<(string To, string Words)> TargetsOf(Design design, IReadOnlyList<Piece> pieces, Piece? carrier, Box own)
    {
        const int most = 12;
        var all = new List<(string, string)>();
        var under = pieces.Count > 0 ? Punch.Below(design, pieces[0]).Except(pieces) : carrier is not null ? [carrier] : design.Pieces;
        foreach (var below in under.OrderByDescending(p => p.OnCard.Bounds.Area).Take(most))
        {
            var panels = below.Folds.IsEmpty ? [] : Panels.Of(below);
            for (var k = 0; k < panels.Count && panels.Count > 1; k++)
                all.Add(($"{below.Id}#{k}", $"{panels[k].Called} of {below.Label}"));
            all.Add((below.Id, below.Label));
        }

        var first = all.Select(t => (t, Box: Align.BoxOf(design, t.Item1))).Where(t => !own.IsEmpty && t.Box is { } box && box.Holds(own.Centre))
            // What holds all of it goes before what only its middle lies in.
            .OrderByDescending(t => t.Box!.Value.Grown(Tolerances.Carried).Holds(own)).ThenBy(t => t.Box!.Value.Area).Select(t => t.t).ToList();
        all = [.. first, .. all.Except(first)];
        if (pieces.Count > 1) all.Insert(Math.Min(1, first.Count), ("all", "each other"));
        all.Add(("page", "the page"));
        return all;
    }

    /// <summary>Turns pieces about the middle of the box around them.</summary>
    /// <param name="about">What stays: a place of their box ("0 2" is its lower left corner), or what <see cref="Align.BoxOf"/> knows; empty is their
    /// middle.</param>
    public Task<IActionResult> OnPostTurnAsync(Guid basedOn, string ids, string? degrees, string? about, CancellationToken cancel)
    {
        Point? at = Design is not { } d || string.IsNullOrEmpty(about) ? null
            : about.Split(' ') is [var x, var y] ? new Anchor(Part(x), Part(y)).In(Align.Around(d, Named(ids))) : Align.BoxOf(d, about)?.Centre;
        return ReadDegrees(degrees, out var by, out var error) ? Change(basedOn, new Turn(Named(ids), by, at), cancel) : Say(error, cancel);
    }

    /// <summary>A typed angle; what is wrong with it as a sentence.</summary>
    protected static bool ReadDegrees(string? text, out Angle angle, out string error)
    {
        var typed = (text ?? "").Trim().TrimEnd('°').Replace(',', '.');
        var isAngle = double.TryParse(typed, CultureInfo.InvariantCulture, out var by) && Math.Abs(by) <= 36_000;
        (angle, error) = isAngle ? (Angle.FromDegrees(by), "")
            : (Angle.Zero, $"“{Words.Short(typed)}” is no angle; type degrees, such as 15 or -7.5.");
        return isAngle;
    }

    /// <summary>Mirrors pieces at an axis through the middle of the box around them.</summary>
    /// <param name="at">A fold by its id, which the axis then runs through.</param>
    public Task<IActionResult> OnPostMirrorAsync(Guid basedOn, string ids, MirrorAxis axis, string? at, CancellationToken cancel)
    {
        var fold = string.IsNullOrEmpty(at) ? null : Design?.Line(at);
        return Change(basedOn, new Mirror(Named(ids), axis, fold?.Path.Bounds.Centre), cancel);
    }

    /// <summary>The folds of the card that stand upright or lie level, to mirror at.</summary>
    public static IReadOnlyList<(string Id, string Words, MirrorAxis Axis)> FoldAxes(Design design) =>
    [
        .. design.Pieces.SelectMany(p => p.Folds.Select(f => (Piece: p, Line: design.Line(f.LineId)!)))
            .Where(f => f.Line.Path.Bounds is { Width: < 0.01 } or { Height: < 0.01 }).Take(8)
            .Select(f => (f.Line.Id, $"fold of {f.Piece.Label}", f.Line.Path.Bounds.Width < 0.01 ? MirrorAxis.Upright : MirrorAxis.Level)),
    ];

    /// <summary>Sizes pieces to typed lengths; an empty one follows, or stays.</summary>
    /// <param name="like">What it is to be as wide or as high as, less the typed length on each side, where <paramref name="side"/> says which.</param>
    public Task<IActionResult> OnPostSizeAsync(Guid basedOn, string ids, string? width, string? height, bool keep, string? from, string? like, string? side,
        CancellationToken cancel)
    {
        if (!ReadIfTyped(width, out var wide, out var error) || !ReadIfTyped(height, out var high, out error)) return Say(error, cancel);
        if (side is "wide" or "high")
        {
            if (Design is not { } d || Align.BoxOf(d, like ?? "page") is not { } box) return Say("What it would be as large as is gone.", cancel);
            var less = 2 * (wide?.Mm ?? 0);
            (wide, high) = side == "wide" ? ((Length?)Length.FromMm(box.Width - less), (Length?)null) : (null, Length.FromMm(box.Height - less));
        }

        var (x, y) = (from ?? "").Split(' ') is [var a, var b] ? (a, b) : ("1", "1");
        return Change(basedOn, new Resize(Named(ids), wide, high, keep, new(Part(x), Part(y))), cancel);
    }

    /// <summary>A typed length; null where nothing is typed.</summary>
    protected bool ReadIfTyped(string? text, out Length? length, out string error)
    {
        (length, error) = (null, "");
        if (string.IsNullOrWhiteSpace(text)) return true;
        if (!LengthText.TryRead(text, LengthUnit, out var read, out error)) return false;
        length = read;
        return true;
    }

    private static double Part(string word) => word switch { "0" => 0, "2" => 1, _ => 0.5 };

    /// <summary>Copies pieces in a ring about the middle of something.</summary>
    public Task<IActionResult> OnPostRingAsync(Guid basedOn, string ids, int number, string? about, bool turns, CancellationToken cancel) =>
        Design is { } d && Align.BoxOf(d, about ?? "page") is { } on
            ? Change(basedOn, new RingOfCopies(Named(ids), number, on.Centre, turns), cancel, "", Choosing.WithNew)
            : Say("What the ring would go round is gone.", cancel);

    /// <summary>Fills a panel, a piece or the page with copies.</summary>
    public Task<IActionResult> OnPostFillWithAsync(Guid basedOn, string ids, string? on, string? gap, CancellationToken cancel)
    {
        if (!ReadWay(gap, out var between, out var error)) return Say(error, cancel);
        return Design is { } d && Align.BoxOf(d, on ?? "page") is { } box && Copies.Filling(d, Named(ids), box, between) is { } edit
            ? Change(basedOn, edit, cancel, "", Choosing.WithNew) : Say("Not even two of it lie there side by side; nothing was copied.", cancel);
    }

    /// <summary>Copies pieces in rows and columns, so far apart.</summary>
    public Task<IActionResult> OnPostCopyAsync(Guid basedOn, string ids, int rows, int columns, string? right, string? down, CancellationToken cancel)
    {
        if (!ReadWay(right, out var x, out var error) || !ReadWay(down, out var y, out error)) return Say(error, cancel);
        // A double is what is worked on next; of many, all are.
        return Change(basedOn, new Copies(Named(ids), rows, columns, x, y), cancel, "", rows * columns == 2 ? Choosing.New : Choosing.WithNew);
    }

    /// <summary>What all of a look could be besides what it is.</summary>
    public static IEnumerable<(Meaning Meaning, string Words)> Meanings(LookRow row)
    {
        if (row.Lines + row.Holes > 0) yield return (Meaning.Paper, "pieces of paper");
        if (row.Lines + row.Pieces > 0) yield return (Meaning.Hole, "holes");
        if (row.Holes > 0) yield return (Meaning.Rest, "no holes: paper again");
        if (row.Pieces > 0) yield return (Meaning.Pen, "drawn on what is below");
        yield return (Meaning.Printed, "only printed");
        yield return (Meaning.Ground, "no part of the card");
    }

    /// <summary>The window through which things of a design are looked at: with some of what lies around them.</summary>
    public static Box Around(Design design, IEnumerable<string> ids)
    {
        const double least = 20, most = 0.25;
        var box = ids.Aggregate(Box.Empty, (b, id) => design.Piece(id) is { } p ? b.With(p.OnCard.Bounds) : design.Line(id) is { } l
            ? b.With(l.By?.OnCard.Bounds ?? l.Path.Bounds) : b);
        if (box.IsEmpty) box = design.Extent;
        return box.Grown(Math.Max(Math.Max(box.Width, box.Height) * most / 2, (least - Math.Max(box.Width, box.Height)) / 2));
    }

    /// <summary>The pieces that lines could belong to: those that they meet, the one that has them first.</summary>
    public static IReadOnlyList<Piece> Carriers(Design design, IReadOnlyList<LaidLine> lines)
    {
        const int most = 30;
        return [.. design.Pieces.Where(p => lines.All(l => p.OnCard.Bounds.Touches(l.Path.Bounds))).OrderByDescending(p => lines.All(l => l.CarriedBy == p.Id))
            .ThenByDescending(p => design.PlyNumber(p.PlyId)).Take(most)];
    }

    protected static ImmutableArray<string> Named(string? ids) => [.. (ids ?? "").Split(',', MostChosen, StringSplitOptions.RemoveEmptyEntries)];
}

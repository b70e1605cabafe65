using System.Text.Json.Serialization;

namespace Falzkunst.Core.Cards;

/// <summary>Where pieces go inside of a box: at its start (left, top), in its middle, or at its end.</summary>
public enum AlignAt
{
    Start,
    Middle,
    End,
}

/// <summary>What a piece is aligned to, and stays so when that is sized or moved, or it itself is sized; or what of its own piece a line is.</summary>
/// <param name="To">As of <see cref="Align"/>, but for "all".</param>
public sealed record Hold(string To, AlignAt? Across, AlignAt? Down, Length Inset)
{
    /// <summary>How far a box is from lying so.</summary>
    internal Point Way(Box own, Box on)
    {
        return new(One(Across, own.Left, own.Right, on.Left, on.Right), One(Down, own.Top, own.Bottom, on.Top, on.Bottom));

        double One(AlignAt? at, double from, double to, double start, double end) => at switch
        {
            AlignAt.Start => start + Inset.Mm - from,
            AlignAt.Middle => (start + end - from - to) / 2,
            AlignAt.End => end - Inset.Mm - to,
            _ => 0,
        };
    }

    /// <summary>
    /// The design after an edit, with what is held where it belongs: it follows what it is held by; what a person moved away from there, or what is held by
    /// something that is gone, is let go.
    /// </summary>
    internal static Design Follow(Design before, Design after)
    {
        if (ReferenceEquals(before, after)) return after;
        after = WithLines(before, after);
        if (after.AllPieces.All(p => p.Held is null)) return after;
        // What holds may be held itself; a row of such is followed to its end.
        for (var round = 0; round < 8; round++)
        {
            var (now, isFirst) = (after, round == 0);
            var pieces = now.AllPieces.Change(p => p.LeftOut is null && p.Held is { } hold ? hold.Kept(before.Piece(p.Id), p, now, isFirst) : p);
            if (pieces == now.AllPieces) break;
            after = now with { AllPieces = pieces };
        }

        return after;
    }

    /// <summary>Lines that are held stay where they belong in their piece when that is sized, or they are written otherwise.</summary>
    private static Design WithLines(Design before, Design after)
    {
        var pieces = after.AllPieces.Change(p => p.LeftOut is null && p.AllLines.Any(l => l.Held is not null) && before.Piece(p.Id) is var was
            && !ReferenceEquals(was, p) ? p with { AllLines = p.AllLines.Change(l => l.Held is { } hold ? hold.Kept(was, p, l, after) : l) } : p);
        return pieces == after.AllPieces ? after : after with { AllPieces = pieces };
    }

    private Line Kept(Piece? before, Piece by, Line now, Design design)
    {
        var was = before?.AllLines.FirstOrDefault(l => l.Id == now.Id);
        if (was is null || To.Split('#')[0] != by.Id || Align.BoxOf(design, To) is not { } on) return now with { Held = null };
        var way = Way(now.Path.Transform(by.Place.Map).Bounds, on);
        if (way.Norm <= Tolerances.Same) return now;
        var isMoved = was.Held == this && was.Words?.Words == now.Words?.Words && before!.Shape == by.Shape && before.Treatments.Same(by.Treatments);
        if (isMoved) return now with { Held = null };
        var moved = now.Through(by.Place.Map.Then(Affine.Move(way.X, way.Y)).Then(by.Place.Map.Inverse()));
        return by.Carries(moved.Path) ? moved : now with { Held = null };
    }

    /// <param name="byHand">Whether it may have been moved by the edit itself, and not for following.</param>
    private Piece Kept(Piece? was, Piece now, Design design, bool byHand)
    {
        if (was is null || To.Split('#')[0] == now.Id || Align.BoxOf(design, To) is not { } on) return now with { Held = null };
        var way = Way(now.OnCard.Bounds, on);
        if (way.Norm <= Tolerances.Same) return now;
        var isMoved = byHand && was.Held == this && was.Place != now.Place && was.Shape == now.Shape && was.Treatments.Same(now.Treatments);
        return isMoved ? now with { Held = null } : now with { Place = now.Place.Moved(way) };
    }

    internal string? Fault() => To is null or { Length: > 80 } || (Across is { } a && !Enum.IsDefined(a)) || (Down is { } d && !Enum.IsDefined(d)) ? "none"
        : null;
}

/// <summary>
/// Moves pieces and lines to an edge or the middle of something: the page, the box around them all, another piece, or a panel of one. Each goes there by
/// itself, or all together as they lie.
/// </summary>
/// <param name="To">"page", "all", the id of a piece ("p1"), or a panel of one by its number in reading order, from 0 ("p1#0").</param>
/// <param name="Across">Where from left to right; null leaves that as it is.</param>
/// <param name="Down">Where from top to bottom; null leaves that as it is.</param>
/// <param name="Inset">How far inside of the edge; negative is outside of it. The middle has none.</param>
public sealed record Align(ImmutableArray<string> PieceIds, string To, AlignAt? Across, AlignAt? Down, Length Inset) : Edit
{
    private const int FarthestMm = 10_000;

    /// <summary>Whether they keep their places to one another: the box around them is what is aligned, and none is held.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool AsOne { get; init; }

    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Align {Names(before, PieceIds)} to {NameOf(before)}";

    public override string? Refusal(Design before) =>
        Math.Abs(Inset.Mm) > FarthestMm ? "That is farther than ten metres; nothing was changed."
        : Across is null && Down is null ? "Say where to: left, centre or right, top, middle or bottom."
        : BoxOf(before) is null ? "What it would be aligned to is gone." : null;

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null || BoxOf(design) is not { } box) return design;
        var ids = PieceIds.Remove(To.Split('#')[0]);
        if (AsOne && To != "all" && ids.Distinct(StringComparer.Ordinal).Count() > 1)
        {
            var around = Around(design, ids);
            var together = around.IsEmpty ? default : new Hold(To, Across, Down, Inset).Way(around, box);
            return together == default ? design : new Move(ids, Length.FromMm(together.X), Length.FromMm(together.Y)).Apply(design);
        }

        var hold = To == "all" ? null : new Hold(To, Across, Down, Inset);
        foreach (var line in PieceIds.Select(design.Line).OfType<LaidLine>().ToList())
            if (new Hold(To, Across, Down, Inset).Way(line.Path.Bounds, box) is var way && way != default)
                design = Carrying.MoveCarried(design, [line.Id], Affine.Move(way.X, way.Y));
        // A line is held by its own piece alone, which it stays in.
        design = design.ChangeLines(PieceIds, (l, by) => (by?.Id == To.Split('#')[0] ? hold : null) is var held && l.Held == held ? l : l with { Held = held });
        return design.ChangePieces(PieceIds.Where(id => id != To.Split('#')[0]), p =>
        {
            var by = new Hold(To, Across, Down, Inset).Way(p.OnCard.Bounds, box);
            return by == default && p.Held == hold ? p : p with { Place = p.Place.Moved(by), Held = hold };
        });
    }

    /// <summary>The two places that words name: "left", "middle", "centre bottom"; null where a word is none of these.</summary>
    public static (AlignAt? Across, AlignAt? Down)? Read(string words)
    {
        (AlignAt? Across, AlignAt? Down) at = default;
        foreach (var word in words.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            switch (word)
            {
                case "left": at.Across = AlignAt.Start; break;
                case "centre": at.Across = AlignAt.Middle; break;
                case "right": at.Across = AlignAt.End; break;
                case "top": at.Down = AlignAt.Start; break;
                case "middle": at.Down = AlignAt.Middle; break;
                case "bottom": at.Down = AlignAt.End; break;
                default: return null;
            }
        }

        return at;
    }

    private string NameOf(Design design) => To switch
    {
        "page" => "the page",
        "all" => "each other",
        _ when To.Split('#') is [var id, var panel] && design.Piece(id) is { } piece && int.TryParse(panel, out var n) =>
            Panels.Of(piece).ElementAtOrDefault(n) is { } named ? $"{named.InSentence} of “{piece.Label}”" : $"a panel of “{piece.Label}”",
        _ => Names(design, [To]),
    };

    private Box? BoxOf(Design design) => To == "all" ? Around(design, PieceIds) is { IsEmpty: false } all ? all : null : BoxOf(design, To);

    /// <summary>The box of the page, of a piece or of a panel on the card, as <paramref name="to"/> names it ("page", "p1", "p1#0"); null where that is
    /// gone.</summary>
    public static Box? BoxOf(Design design, string to)
    {
        if (to == "page") return new(0, 0, design.Width.Mm, design.Height.Mm);
        var parts = to.Split('#');
        if (design.Piece(parts[0]) is not { } piece) return null;
        if (parts.Length == 1) return piece.OnCard.Bounds;
        return int.TryParse(parts[1], out var n) && Panels.Of(piece).ElementAtOrDefault(n) is { } panel ? Panels.OnCard(piece, panel) : null;
    }

    /// <summary>The box around pieces, lines and what is printed as they lie on the card; empty where none is there.</summary>
    public static Box Around(Design design, ImmutableArray<string> ids) =>
        design.Pieces.Where(p => ids.Contains(p.Id)).Select(p => p.OnCard.Bounds)
            .Concat(design.Lines.Where(l => ids.Contains(l.Id)).Select(l => l.Path.Bounds))
            .Concat(design.Artwork.Where(a => ids.Contains(a.Id)).Select(a => a.Bounds)).Aggregate(Box.Empty, (b, more) => b.With(more));
}

/// <summary>Spreads three pieces or more so that the gaps between them are equal; the two outermost stay.</summary>
/// <param name="Across">From left to right; otherwise from top to bottom.</param>
public sealed record Spread(ImmutableArray<string> PieceIds, bool Across) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Spread {Names(before, PieceIds)} evenly {(Across ? "across" : "down")}";

    public override string? Refusal(Design before) => PieceIds.Distinct(StringComparer.Ordinal).Count(id => before.Piece(id) is not null) < 3
        ? "Choose three pieces or more to spread." : null;

    public override Design Apply(Design design)
    {
        var all = PieceIds.Distinct(StringComparer.Ordinal).Select(design.Piece).OfType<Piece>()
            .Select(p => (p.Id, From: Across ? p.OnCard.Bounds.Left : p.OnCard.Bounds.Top, Size: Across ? p.OnCard.Bounds.Width : p.OnCard.Bounds.Height))
            .OrderBy(p => p.From + p.Size / 2).ToList();
        if (all.Count < 3) return design;
        var gap = (all[^1].From + all[^1].Size - all[0].From - all.Sum(p => p.Size)) / (all.Count - 1);
        var at = all[0].From;
        var moves = new Dictionary<string, double>(StringComparer.Ordinal);
        foreach (var (id, from, size) in all)
        {
            moves[id] = at - from;
            at += size + gap;
        }

        moves[all[^1].Id] = 0;
        return design.ChangePieces(moves.Where(m => Math.Abs(m.Value) > Tolerances.Same).Select(m => m.Key),
            p => p with { Place = p.Place.Moved(Across ? new(moves[p.Id], 0) : new(0, moves[p.Id])) });
    }
}

/// <summary>Moves a piece straight to or from another until the narrowest gap between both is as wide as wanted.</summary>
/// <param name="PieceId">The one that moves.</param>
/// <param name="FromId">The one that stays.</param>
public sealed record SetGap(string PieceId, string FromId, Length Gap) : Edit
{
    private const double MostMm = 10_000;

    public override ImmutableArray<string> About => [PieceId, FromId];

    public override string Describe(Design before) => $"{Gap} between {Names(before, [FromId, PieceId])}";

    public override string? Refusal(Design before) =>
        Gap.Mm is not (>= 0 and <= MostMm) ? "A gap is 0 to 10 m wide; nothing was changed."
        : before.Piece(PieceId) is not { } piece || before.Piece(FromId) is not { } from ? "The piece is gone."
        : Between(piece, from).Length <= Length.Zero ? "They touch or overlap; move them apart first, so that it is known which way." : null;

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null || design.Piece(PieceId) is not { } piece || design.Piece(FromId) is not { } from) return design;
        // Another place may be the narrowest after a step; the next takes that.
        for (var round = 0; round < 30; round++)
        {
            var now = Between(piece, from);
            var off = Gap.Mm - now.Length.Mm;
            if (Math.Abs(off) < 1e-4 || now.Length.Mm < 1e-9) break;
            piece = piece with { Place = piece.Place.Moved((now.At - now.From) * (off / now.Length.Mm)) };
        }

        return design.ChangePieces([PieceId], p => p.Place == piece.Place ? p : piece);
    }

    /// <summary>The narrowest gap between two pieces on the card, and the places on both; zero where they touch. On chords within 0.002 mm.</summary>
    public static NarrowestGap Between(Piece piece, Piece from)
    {
        var (at, on) = Regions.Region.Of(piece.OnCard, Tolerances.Measure).Nearest(Regions.Region.Of(from.OnCard, Tolerances.Measure));
        return new(at, on, Length.FromMm(at.DistanceTo(on)));
    }
}

/// <param name="At">On the first piece.</param>
/// <param name="From">On the other.</param>
public sealed record NarrowestGap(Point At, Point From, Length Length);

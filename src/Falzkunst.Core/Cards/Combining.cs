using System.Text.Json.Serialization;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>
/// Makes other pieces of the areas of some. Curves stay curves (<see cref="Together"/>); where a piece keeps its id, its own coordinates and all that was said
/// of it stay too. Lines and pictures go with the paper that they lie on: a line over a new edge is cut off there, one that lies on no paper any more becomes
/// loose.
/// </summary>
public abstract record Combination : Edit
{
    /// <summary>What becomes of the pieces. Pure.</summary>
    private protected abstract Outcome Find(Design design);

    /// <summary>In one word or two, what a person would get: "one piece".</summary>
    public abstract string Gives(Design before);

    public override string? Refusal(Design before)
    {
        try
        {
            return Find(before).Refusal;
        }
        catch (TangledException)
        {
            return "Their outlines cross too often; simplify them first.";
        }
    }

    public override Design Apply(Design design)
    {
        try
        {
            return Find(design) is { Refusal: null } outcome ? outcome.On(design) : design;
        }
        catch (TangledException)
        {
            return design;
        }
    }

    /// <summary>What was put together or taken apart is another thing: where its middle or its edges lie now, nobody asked to be held.</summary>
    private protected override Design LetsGo(Design before, Design after) => after.ChangePieces(
        after.AllPieces.Where(p => p.Held is not null && before.Piece(p.Id) is { } was && was.Outline.Bounds != p.Outline.Bounds).Select(p => p.Id),
        p => p with { Held = null });

    /// <summary>The edit for a word of a form: "join", "takeAway" (the others from the first named), "takeFrom" (the first named from the others), "overlap",
    /// "divide", "punch"; null for any other.</summary>
    public static Combination? Read(string how, ImmutableArray<string> ids) => (how, ids) switch
    {
        ("join", _) => new JoinPieces(ids),
        ("joinCentred", _) => new JoinPieces(ids) { CentreFirst = true },
        ("joinPushed", _) => new JoinPieces(ids) { PushTogether = true },
        ("joinSmooth", _) => new JoinPieces(ids) { SmoothUnder = Length.FromMm(JoinPieces.NotchMm) },
        ("takeAway", [var from, .. var what]) => new TakeAway([from], [.. what]),
        ("takeFrom", [var what, .. var from]) => new TakeAway([.. from], [what]),
        ("overlap", _) => new KeepOverlap(ids),
        ("divide", _) => new Divide(ids),
        ("cutAlong", [var edge, .. var of]) => new CutAlong([.. of], edge),
        ("punch", [var one]) => new Punch(one),
        _ => null,
    };

    /// <summary>What chosen pieces could become, worked out, for whoever chooses by the result; only what can be done. Empty for more than can be looked at in
    /// one go.</summary>
    public static IReadOnlyList<CombinationChoice> Choices(Design design, IReadOnlyList<Piece> pieces)
    {
        const int mostPieces = 12, mostSegments = 6000;
        if (pieces.Count > mostPieces || pieces.Sum(p => p.Outline.Subpaths.Sum(s => s.Segments.Length)) > mostSegments) return [];
        // By ply, the lowest first: what lies on top is taken from what is below.
        var ids = pieces.OrderBy(p => design.PlyNumber(p.PlyId)).Select(p => p.Id).ToImmutableArray();
        ImmutableArray<string> topFirst = [.. ids.Reverse()];
        IEnumerable<(string How, ImmutableArray<string> Ids)> all = ids.Length < 2 ? [] :
        [
            ("join", ids), .. AreOffCentre(pieces) ? [("joinCentred", ids)] : Array.Empty<(string, ImmutableArray<string>)>(), ("joinPushed", ids),
            .. ids.Length == 2 ? new[] { ("takeAway", ids), ("takeAway", topFirst) } : [("takeFrom", topFirst)], ("overlap", ids), ("divide", ids),
            ("cutAlong", topFirst),
        ];
        var choices = new List<CombinationChoice>();
        foreach (var (how, of) in all)
        {
            // Pushing is for what does not touch.
            if (how == "joinPushed" && choices.Exists(c => c.Edit is JoinPieces)) continue;
            var edit = Read(how, of)!;
            var after = edit.Apply(design);
            if (after == design) continue;
            var fresh = after.Pieces.Where(p => design.Piece(p.Id) != p).ToList();
            choices.Add(new($"{how} {string.Join(',', of)}", edit, after, [.. fresh.Select(p => p.Id)], fresh.Sum(p => p.AreaMm2)));
            if (how == "join" && JoinPieces.LeavesNotches(design, after, of[0]) && Read("joinSmooth", of) is { } smooth && smooth.Apply(design) is var whole)
                choices.Add(new($"joinSmooth {string.Join(',', of)}", smooth, whole, [of[0]], whole.Piece(of[0])!.AreaMm2));
        }

        return choices;
    }

    /// <summary>Whether two pieces lie nearly, but not quite, with their middles over one another.</summary>
    private static bool AreOffCentre(IReadOnlyList<Piece> pieces)
    {
        if (pieces.Count != 2) return false;
        Box a = pieces[0].OnCard.Bounds, b = pieces[1].OnCard.Bounds;
        return Math.Abs(a.Centre.X - b.Centre.X) > 0.005 && Math.Abs(a.Centre.X - b.Centre.X) < Math.Min(a.Width, b.Width) / 4;
    }

    private protected static List<Piece> Pieces(Design design, ImmutableArray<string> ids) =>
        [.. ids.Distinct(StringComparer.Ordinal).Select(design.Piece).OfType<Piece>()];

    /// <summary>A path in the coordinates of one piece, in those of another; the very same where both lie alike.</summary>
    private protected static VectorPath In(Piece frame, Piece from, VectorPath path) =>
        from.Place == frame.Place ? path : path.Transform(from.Place.Map).Transform(frame.Place.Map.Inverse());

    private protected static Line In(Piece frame, Piece from, Line line) =>
        from.Place == frame.Place ? line : line.Through(from.Place.Map).Through(frame.Place.Map.Inverse());

    private protected static VectorPath AreaIn(Piece piece, Piece frame) => In(frame, piece, piece.Outline);

    /// <summary>The parts of a piece that was in one part become pieces of their own; one that was in several stays whole.</summary>
    private protected static IEnumerable<VectorPath> Parted(Piece piece, IReadOnlyList<VectorPath> parts) =>
        parts.Count > 1 && Enumerable.Range(0, piece.Edges.Length).Count(piece.IsOuter) > 1 ? [VectorPath.Joined(parts)] : parts;

    /// <summary>What is left of pieces without others.</summary>
    private protected static Outcome Away(List<Piece> from, List<Piece> what)
    {
        var parts = new List<Part>();
        var changed = new List<Piece>();
        foreach (var piece in from.Where(p => !what.Contains(p)))
        {
            var taken = what.Where(w => w.OnCard.Bounds.Touches(piece.OnCard.Bounds)).Select(w => AreaIn(w, piece)).ToList();
            if (taken.Count == 0) continue;
            var left = Together.TakeAway(piece.Outline, taken);
            if (left.Count == 0) return Outcome.Refused($"Nothing of “{piece.Label}” would be left.");
            if (left.Sum(p => p.SignedAreaMm2) > piece.AreaMm2 - 1e-6) continue;
            changed.Add(piece);
            parts.AddRange(Parted(piece, left).Select((p, i) => new Part(piece, i == 0, p)));
        }

        return changed.Count > 0 ? new(parts, changed) : Outcome.Refused("They don't overlap: nothing would be taken away.");
    }

    /// <summary>What pieces are cut into.</summary>
    /// <param name="along">The line, in the coordinates of a piece.</param>
    private protected static Outcome Apart(List<Piece> pieces, Func<Piece, VectorPath> along, string whyNot)
    {
        var (parts, changed) = (new List<Part>(), new List<Piece>());
        foreach (var piece in pieces)
        {
            var cut = Together.CutApart(piece.Outline, along(piece));
            if (cut.Count < 2) continue;
            changed.Add(piece);
            parts.AddRange(cut.Select((p, i) => new Part(piece, i == 0, p)));
        }

        return changed.Count > 0 ? new(parts, changed) : Outcome.Refused($"{whyNot}: they would stay in one part.");
    }

    /// <summary>One piece that comes of it: the piece that it is made from, whether it keeps the id of that, and its outline in the coordinates of
    /// that.</summary>
    private protected sealed record Part(Piece Of, bool IsFirst, VectorPath Outline);

    /// <param name="Parts">All that is left of the pieces.</param>
    /// <param name="Replaced">The pieces that they come instead of.</param>
    /// <param name="Refusal">Why it can't be done, as a sentence.</param>
    private protected sealed record Outcome(IReadOnlyList<Part> Parts, IReadOnlyList<Piece> Replaced, string? Refusal = null)
    {
        public static Outcome Refused(string why) => new([], [], why);

        public Design On(Design design)
        {
            var made = new List<Piece>();
            var taken = design.AllPieces.Select(p => p.Label).ToHashSet(StringComparer.Ordinal);
            foreach (var part in Parts)
            {
                var id = part.Of.Id;
                if (!part.IsFirst) design = design.WithId("p", out id);
                var piece = part.Of with
                {
                    Id = id,
                    Label = part.IsFirst ? part.Of.Label : Copies.FreeLabel(part.Of.Label, taken),
                    Shape = new Drawn(part.Outline),
                    Treatments = [],
                    AllLines = [],
                    AllArtwork = [],
                    Folds = [],
                    // A panel keeps its name also where a window opens at the place that names it.
                    Panels = [.. part.Of.Panels.Where(n => part.Outline.Parts().Any(r => r.SignedAreaMm2 > 0 && r.Encloses(n.At)))],
                };
                made.Add(piece with { Edges = Carrying.EdgesOf(piece, Replaced) });
            }

            design = CarryOn(design, made);
            var after = made.ToLookup(p => p.Id, StringComparer.Ordinal);
            var gone = Replaced.Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
            // What keeps its id keeps its place in the order; what is new lies right above it.
            var all = ImmutableArray.CreateBuilder<Piece>();
            foreach (var p in design.AllPieces)
            {
                if (p.LeftOut is not null || !gone.Contains(p.Id)) all.Add(p);
                all.AddRange(Parts.Zip(made).Where(t => t.First.Of.Id == p.Id && p.LeftOut is null).Select(t => Carrying.WithFolds(t.Second)));
            }

            return design with { AllPieces = all.ToImmutable(), AllPlies = Remove.InUse(design.AllPlies, all.ToImmutable()) };
        }

        /// <summary>Gives lines and pictures to the paper that they lie on.</summary>
        private Design CarryOn(Design design, List<Piece> made)
        {
            foreach (var old in Replaced)
            {
                foreach (var line in old.AllLines)
                {
                    var carriers = Enumerable.Range(0, made.Count).Where(k => line.LeftOut is not null || made[k].Carries(In(made[k], old, line.Path))).Take(1)
                        .ToList();
                    if (carriers.Count == 1)
                    {
                        made[carriers[0]] = With(made[carriers[0]], In(made[carriers[0]], old, line), old, line.Id);
                        continue;
                    }

                    var isFirst = true;
                    for (var k = 0; k < made.Count; k++)
                    {
                        var kept = Region.Of(made[k].Outline, Tolerances.Measure).Within(In(made[k], old, line.Path));
                        foreach (var run in kept.Subpaths.Where(s => new VectorPath([s]).Length.Mm > Tolerances.Carried))
                        {
                            var id = line.Id;
                            if (!isFirst) design = design.WithId("l", out id);
                            isFirst = false;
                            made[k] = With(made[k], line with { Id = id, Path = new([run]) }, old, line.Id);
                        }
                    }

                    if (isFirst) design = design with { AllLoose = design.AllLoose.Add(line.Through(old.Place.Map)) };
                }

                foreach (var art in old.AllArtwork)
                {
                    var isFirst = true;
                    for (var k = 0; k < made.Count; k++)
                    {
                        var map = made[k].Place == old.Place ? art.Map : art.Map.Then(old.Place.Map).Then(made[k].Place.Map.Inverse());
                        if (art.LeftOut is null ? !(art with { Map = map }).LiesIn(made[k].Outline.Bounds) : !isFirst) continue;
                        var id = art.Id;
                        if (!isFirst) design = design.WithId("a", out id);
                        isFirst = false;
                        made[k] = made[k] with { AllArtwork = made[k].AllArtwork.Add(art with { Id = id, Map = map }) };
                    }

                    if (isFirst) design = design with { AllLooseArtwork = design.AllLooseArtwork.Add(art with { Map = art.Map.Then(old.Place.Map) }) };
                }
            }

            return design;

            static Piece With(Piece piece, Line line, Piece old, string was) => piece with
            {
                AllLines = piece.AllLines.Add(line),
                Folds = old.Folds.FirstOrDefault(f => f.LineId == was) is { } fold ? piece.Folds.Add(fold with { LineId = line.Id }) : piece.Folds,
            };
        }
    }
}

/// <summary>One thing that pieces could become.</summary>
/// <param name="How">As <see cref="Combination.Read"/> takes it, and behind it the ids: "join p1,p2".</param>
/// <param name="After">The design that would come of it.</param>
/// <param name="Made">The pieces that would be made or changed.</param>
/// <param name="AreaMm2">Their paper.</param>
public sealed record CombinationChoice(string How, Combination Edit, Design After, ImmutableArray<string> Made, double AreaMm2)
{
    /// <summary>How many lines would be cut off at a new edge, or come to lie on no paper any more.</summary>
    public int CutOff(Design before)
    {
        var count = 0;
        foreach (var line in before.Lines.Where(l => l.CarriedBy is { } by && (Made.Contains(by) || After.Piece(by) is null)))
            if (After.Line(line.Id) is not { CarriedBy: not null } now || now.Path.Length.Mm < line.Path.Length.Mm - Tolerances.Carried) count++;
        return count;
    }
}

/// <summary>Joins pieces to one, which is the first named; the others are gone.</summary>
public sealed record JoinPieces(ImmutableArray<string> PieceIds) : Combination
{
    /// <summary>What pieces overlap when they are pushed together: a hair, so that rounding leaves no gap.</summary>
    private const double HairMm = 0.05;

    /// <summary>Whether the others are centred on the first, from left to right, before.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool CentreFirst { get; init; }

    /// <summary>Whether what lies apart is pushed straight to the rest, until both overlap by a hair.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool PushTogether { get; init; }

    /// <summary>Notches and spikes narrower than this are smoothed away afterwards; zero leaves them.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length SmoothUnder { get; init; }

    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Join {Names(before, PieceIds)}" + (CentreFirst ? ", centred" : "")
        + (PushTogether ? ", pushed together" : "") + (SmoothUnder > Length.Zero ? ", without notches" : "");

    public override string Gives(Design before) => "one piece" + (CentreFirst ? ", centred" : PushTogether ? ", pushed together" : "")
        + (SmoothUnder > Length.Zero ? ", no notches" : "");

    private protected override Outcome Find(Design design)
    {
        var pieces = Pieces(design, PieceIds);
        if (pieces.Count < 2) return Outcome.Refused("Choose two pieces or more to join.");
        if (SmoothUnder.Mm is not (>= 0 and <= 20)) return Outcome.Refused("What is smoothed away is up to 20 mm wide.");
        if (CentreFirst)
        {
            var middle = pieces[0].OnCard.Bounds.Centre.X;
            pieces = [pieces[0], .. pieces.Skip(1).Select(p => p with { Place = p.Place.Moved(new(middle - p.OnCard.Bounds.Centre.X, 0)) })];
        }

        if (PushTogether) pieces = Pushed(pieces);
        var parts = Together.Join(pieces.ConvertAll(p => AreaIn(p, pieces[0])));
        if (parts.Count == 0) return Outcome.Refused("They are too small to be joined.");
        if (parts.Count > 1) return Outcome.Refused($"They don't all touch: joined, they would stay {parts.Count} parts. Move them together first.");
        return new([new(pieces[0], true, SmoothUnder > Length.Zero ? Smoothing.Of(parts[0], SmoothUnder.Mm).Outline : parts[0])], pieces);
    }

    /// <summary>Each goes straight to the nearest of those before it, from the first on.</summary>
    private static List<Piece> Pushed(List<Piece> pieces)
    {
        var pushed = new List<Piece> { pieces[0] };
        foreach (var piece in pieces.Skip(1))
        {
            var gap = pushed.Select(p => SetGap.Between(piece, p)).MinBy(g => g.Length.Mm)!;
            pushed.Add(gap.Length.Mm <= 0 ? piece
                : piece with { Place = piece.Place.Moved((gap.From - gap.At) * ((gap.Length.Mm + HairMm) / gap.Length.Mm)) });
        }

        return pushed;
    }

    /// <summary>Where joined pieces would have notches or slits that none of them had: narrower than a millimetre, and likely to be meant as none.</summary>
    internal static bool LeavesNotches(Design before, Design after, string id)
    {
        return before.Piece(id) is { } was && after.Piece(id) is { } piece && Notches(piece) > Notches(was);

        static int Notches(Piece piece) => Smoothing.Of(piece.Outline, NotchMm).Away.Filled.Count;
    }

    /// <summary>A notch is narrower than this.</summary>
    internal const double NotchMm = 1;
}

/// <summary>Takes the areas of some pieces away from others; those that are taken stay where they are.</summary>
public sealed record TakeAway(ImmutableArray<string> From, ImmutableArray<string> What) : Combination
{
    public override ImmutableArray<string> About => [.. From, .. What];

    public override string Describe(Design before) => $"Take {Names(before, What)} away from {Names(before, From)}";

    public override string Gives(Design before) => $"{Names(before, From)} without {Names(before, What)}";

    private protected override Outcome Find(Design design) => Away(Pieces(design, From), Pieces(design, What));
}

/// <summary>Keeps what all of some pieces cover, as the first named; the others are gone.</summary>
public sealed record KeepOverlap(ImmutableArray<string> PieceIds) : Combination
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Keep the overlap of {Names(before, PieceIds)}";

    public override string Gives(Design before) => PieceIds.Length == 2 ? "only what both cover" : "only what all cover";

    private protected override Outcome Find(Design design)
    {
        var pieces = Pieces(design, PieceIds);
        if (pieces.Count < 2) return Outcome.Refused("Choose two pieces or more.");
        var parts = Together.Overlap(pieces.ConvertAll(p => AreaIn(p, pieces[0])));
        return parts.Count > 0 ? new([.. Parted(pieces[0], parts).Select((p, i) => new Part(pieces[0], i == 0, p))], pieces)
            : Outcome.Refused("They don't overlap: nothing would be left.");
    }
}

/// <summary>Makes a piece of each part into which the outlines of some pieces divide one another. The largest part of each keeps its id; what several share
/// belongs to the first of them that is named.</summary>
public sealed record Divide(ImmutableArray<string> PieceIds) : Combination
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Divide {Names(before, PieceIds)}";

    public override string Gives(Design before) => "all parts, each a piece";

    private protected override Outcome Find(Design design)
    {
        var pieces = Pieces(design, PieceIds);
        if (pieces.Count < 2) return Outcome.Refused("Choose two pieces or more to divide.");
        var divided = Together.Divide(pieces.ConvertAll(p => AreaIn(p, pieces[0])));
        if (divided.All(p => p.Of.Length == 1)) return Outcome.Refused("They don't overlap: there is nothing to divide.");
        var seen = new HashSet<int>();
        // In the coordinates of the piece that each part belongs to.
        return new([.. divided.Select(p => (Of: pieces[p.Of[0]], First: seen.Add(p.Of[0]), p.Part))
            .Select(p => new Part(p.Of, p.First, In(p.Of, pieces[0], p.Part)))], pieces);
    }
}

/// <summary>Cuts pieces apart along a line of the card, which goes on straight at its ends. The largest part of each keeps its id.</summary>
public sealed record CutApart(ImmutableArray<string> PieceIds, VectorPath Along) : Combination
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Cut {Names(before, PieceIds)} apart";

    public override string Gives(Design before) => "its parts, each a piece";

    private protected override Outcome Find(Design design) => Apart(Pieces(design, PieceIds),
        p => p.Place.IsOwn ? Along : Along.Transform(p.Place.Map.Inverse()), "The line goes across none of them");
}

/// <summary>Cuts pieces apart along the edges of another, which stays as it is. The largest part of each keeps its id.</summary>
/// <param name="EdgeOf">The piece along whose edges is cut.</param>
public sealed record CutAlong(ImmutableArray<string> PieceIds, string EdgeOf) : Combination
{
    public override ImmutableArray<string> About => [.. PieceIds, EdgeOf];

    public override string Describe(Design before) => $"Cut {Names(before, PieceIds)} apart along the edge of {Names(before, [EdgeOf])}";

    public override string Gives(Design before) => $"{Names(before, PieceIds)} cut along the edge of {Names(before, [EdgeOf])}";

    private protected override Outcome Find(Design design) => design.Piece(EdgeOf) is not { } edge ? Outcome.Refused("The piece is gone.")
        : Apart(Pieces(design, PieceIds.Remove(EdgeOf)), p => AreaIn(edge, p), $"The edge of “{edge.Label}” goes across none of them");
}

/// <summary>Takes the area of a piece away from all pieces on the plies below it.</summary>
public sealed record Punch(string PieceId) : Combination
{
    /// <summary>Others that punch with it.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public ImmutableArray<string> Also { get; init; } = [];

    /// <summary>Through how many of the plies below that they lie on, from the top; null goes through all.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public int? Through { get; init; }

    /// <summary>Plies that stay whole.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public ImmutableArray<string> But { get; init; } = [];

    private ImmutableArray<string> Ids => [PieceId, .. Also.IsDefault ? [] : Also];

    public override ImmutableArray<string> About => Ids;

    public override string Describe(Design before) =>
        $"Punch {Names(before, Ids)} through {(Through is { } n ? n == 1 ? "the next ply" : $"the next {n} plies" : "all below")}";

    public override string Gives(Design before) => "a hole of its shape in what is below";

    private protected override Outcome Find(Design design)
    {
        if (Pieces(design, Ids) is not { Count: > 0 } with) return Outcome.Refused("The piece is gone.");
        if (Through is < 1) return Outcome.Refused("It goes through one ply at least.");
        var below = Under(design, with, But).Take(Through ?? int.MaxValue).SelectMany(p => p).ToList();
        return below.Count > 0 ? Away(below, with) : Outcome.Refused($"Nothing lies below “{with[0].Label}”.");
    }

    /// <summary>The pieces below all of some that paper of theirs lies over, by ply from the top.</summary>
    /// <param name="but">Plies that are left out.</param>
    public static IReadOnlyList<IReadOnlyList<Piece>> Under(Design design, IReadOnlyList<Piece> pieces, ImmutableArray<string> but)
    {
        var lowest = pieces.Min(p => design.PlyNumber(p.PlyId));
        // Areas are made of what is near alone: this is asked for whenever something is chosen.
        var areas = pieces.Select(p => (p.OnCard.Bounds, Area: new Lazy<Region>(() => Region.Of(p.OnCard)))).ToList();
        return [.. design.Papers.Where(p => design.PlyNumber(p.PlyId) < lowest && (but.IsDefault || !but.Contains(p.PlyId)) && IsUnder(p.OnCard))
            .GroupBy(p => design.PlyNumber(p.PlyId)).OrderByDescending(g => g.Key).Select(g => (IReadOnlyList<Piece>)[.. g])];

        bool IsUnder(VectorPath paper)
        {
            var near = areas.FindAll(a => a.Bounds.Touches(paper.Bounds));
            if (near.Count == 0) return false;
            var its = Region.Of(paper);
            return near.Exists(a => a.Area.Value.Overlap(its).AreaMm2 > LeastMm2);
        }
    }

    /// <summary>Less than that is a touch.</summary>
    private const double LeastMm2 = 1e-3;

    /// <summary>The pieces on lower plies that may lie under a piece.</summary>
    public static List<Piece> Below(Design design, Piece piece) => [.. design.Pieces.Where(p => design.PlyNumber(p.PlyId) < design.PlyNumber(piece.PlyId)
        && p.OnCard.Bounds.Touches(piece.OnCard.Bounds))];
}

/// <summary>Takes a shape out of a piece: a window, a slot, a hole for a string.</summary>
/// <param name="At">How the shape lies on the card.</param>
public sealed record AddHole(string PieceId, Shape Shape, Place At) : Combination
{
    public override ImmutableArray<string> About => [PieceId];

    public override string Describe(Design before) => $"Open {Names(before, [PieceId])}";

    public override string Gives(Design before) => "a hole of its shape";

    public override string? Refusal(Design before) => Fresh.Fault(At) ?? (Shape.Fault() is { } fault ? $"It can't be made: {fault}."
        : Shape is Lettered { IsSingleLine: true } ? "Letters of single lines enclose nothing that could be taken out." : base.Refusal(before));

    private protected override Outcome Find(Design design)
    {
        if (design.Piece(PieceId) is not { } piece) return Outcome.Refused("The piece is gone.");
        var left = Together.TakeAway(piece.Outline, [new PlacedShape(Shape, At).AreaIn(piece)]);
        if (left.Count == 0) return Outcome.Refused($"Nothing of “{piece.Label}” would be left.");
        return left.Sum(p => p.SignedAreaMm2) > piece.AreaMm2 - 1e-6 ? Outcome.Refused($"It lies beside “{piece.Label}”: nothing would be opened.")
            : new([.. Parted(piece, left).Select((p, i) => new Part(piece, i == 0, p))], [piece]);
    }
}

/// <summary>Joins shapes to a piece: round tops, a wavy edge, a tab.</summary>
/// <param name="Shapes">Each with how it lies on the card.</param>
public sealed record AddJoined(string PieceId, ImmutableArray<PlacedShape> Shapes) : Combination
{
    public override ImmutableArray<string> About => [PieceId];

    public override string Describe(Design before) => $"Join {Count(Shapes.Length, "shape")} to {Names(before, [PieceId])}";

    public override string Gives(Design before) => "one piece";

    public override string? Refusal(Design before) => Shapes.IsDefaultOrEmpty ? "There is nothing to join."
        : Shapes.Select(s => Fresh.Fault(s.At) ?? (s.Shape.Fault() is { } fault ? $"It can't be made: {fault}." : null)).FirstOrDefault(f => f is not null)
        ?? base.Refusal(before);

    private protected override Outcome Find(Design design)
    {
        if (design.Piece(PieceId) is not { } piece) return Outcome.Refused("The piece is gone.");
        var parts = Together.Join([piece.Outline, .. Shapes.Select(s => s.AreaIn(piece))]);
        return parts.Count == 1 ? new([new(piece, true, parts[0])], [piece])
            : Outcome.Refused($"Not all of it touches “{piece.Label}”; nothing was joined.");
    }

    public bool Equals(AddJoined? o) => o is not null && PieceId == o.PieceId && Shapes.Same(o.Shapes);

    public override int GetHashCode() => HashCode.Combine(PieceId, Shapes.Length);
}

/// <summary>A shape, and how it lies on the card.</summary>
public sealed record PlacedShape(Shape Shape, Place At)
{
    /// <summary>What it covers, in the coordinates of a piece.</summary>
    internal VectorPath AreaIn(Piece piece)
    {
        var area = Outlines.Derive(Shape, []).Transform(At.Map);
        return piece.Place.IsOwn ? area : area.Transform(piece.Place.Map.Inverse());
    }
}

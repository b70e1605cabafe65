using System.Text.Json.Serialization;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>
/// A change to a design, as a record. <see cref="Apply"/> is pure: the design before stays as it is, which is what undo returns to.
/// An edit that names something that is gone changes nothing there. What it does not name stays the very same instance.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "do")]
[JsonDerivedType(typeof(SetLineOperation), "lineOperation")]
[JsonDerivedType(typeof(SetLookOperation), "lookOperation")]
[JsonDerivedType(typeof(SetOutlineOperation), "outlineOperation")]
[JsonDerivedType(typeof(SetFace), "face")]
[JsonDerivedType(typeof(SetFoldSide), "foldSide")]
[JsonDerivedType(typeof(SetFoldsBack), "foldsBack")]
[JsonDerivedType(typeof(LayOnPaper), "layOnPaper")]
[JsonDerivedType(typeof(MakePieces), "makePieces")]
[JsonDerivedType(typeof(Remove), "remove")]
[JsonDerivedType(typeof(LeaveOut), "leaveOut")]
[JsonDerivedType(typeof(PutBack), "putBack")]
[JsonDerivedType(typeof(BringBeside), "bringBeside")]
[JsonDerivedType(typeof(TraceAgain), "traceAgain")]
[JsonDerivedType(typeof(Move), "move")]
[JsonDerivedType(typeof(Turn), "turn")]
[JsonDerivedType(typeof(Mirror), "mirror")]
[JsonDerivedType(typeof(Treat), "treat")]
[JsonDerivedType(typeof(Strengthen), "strengthen")]
[JsonDerivedType(typeof(Unstrengthen), "unstrengthen")]
[JsonDerivedType(typeof(AskOfPaper), "askOfPaper")]
[JsonDerivedType(typeof(SetPrinting), "printing")]
[JsonDerivedType(typeof(SetInk), "ink")]
[JsonDerivedType(typeof(SetDashes), "dashes")]
[JsonDerivedType(typeof(SetBridges), "bridges")]
[JsonDerivedType(typeof(SetInfill), "infill")]
[JsonDerivedType(typeof(ScoreTwice), "scoreTwice")]
[JsonDerivedType(typeof(SetPasses), "passes")]
[JsonDerivedType(typeof(SetPen), "pen")]
[JsonDerivedType(typeof(SetFoil), "foil")]
[JsonDerivedType(typeof(TakeBack), "takeBack")]
[JsonDerivedType(typeof(ReplacePicture), "replacePicture")]
[JsonDerivedType(typeof(PrintOn), "printOn")]
[JsonDerivedType(typeof(FillWith), "fill")]
[JsonDerivedType(typeof(PrintTogether), "printTogether")]
[JsonDerivedType(typeof(CutAgain), "cutAgain")]
[JsonDerivedType(typeof(Untreat), "untreat")]
[JsonDerivedType(typeof(NamePanel), "namePanel")]
[JsonDerivedType(typeof(MovePly), "movePly")]
[JsonDerivedType(typeof(PutOnPly), "putOnPly")]
[JsonDerivedType(typeof(PutOnNewPly), "putOnNewPly")]
[JsonDerivedType(typeof(LayInFront), "layInFront")]
[JsonDerivedType(typeof(SetFoam), "foam")]
[JsonDerivedType(typeof(Rename), "rename")]
[JsonDerivedType(typeof(AssignStock), "assignStock")]
[JsonDerivedType(typeof(SetNumber), "number")]
[JsonDerivedType(typeof(SetLaying), "laying")]
[JsonDerivedType(typeof(SetScale), "scale")]
[JsonDerivedType(typeof(ApplyRules), "applyRules")]
[JsonDerivedType(typeof(TakeRulesBack), "takeRulesBack")]
[JsonDerivedType(typeof(Become), "become")]
[JsonDerivedType(typeof(Settle), "settle")]
[JsonDerivedType(typeof(JoinLines), "joinLines")]
[JsonDerivedType(typeof(JoinFolds), "joinFolds")]
[JsonDerivedType(typeof(JoinPanels), "joinPanels")]
[JsonDerivedType(typeof(SwapBelow), "swapBelow")]
[JsonDerivedType(typeof(CarryBy), "carryBy")]
[JsonDerivedType(typeof(JoinPieces), "join")]
[JsonDerivedType(typeof(TakeAway), "takeAway")]
[JsonDerivedType(typeof(KeepOverlap), "overlap")]
[JsonDerivedType(typeof(Divide), "divide")]
[JsonDerivedType(typeof(CutApart), "cutApart")]
[JsonDerivedType(typeof(CutAlong), "cutAlong")]
[JsonDerivedType(typeof(Punch), "punch")]
[JsonDerivedType(typeof(Resize), "size")]
[JsonDerivedType(typeof(Copies), "copy")]
[JsonDerivedType(typeof(RingOfCopies), "ring")]
[JsonDerivedType(typeof(Align), "align")]
[JsonDerivedType(typeof(Spread), "spread")]
[JsonDerivedType(typeof(AddPiece), "addPiece")]
[JsonDerivedType(typeof(AddLine), "addLine")]
[JsonDerivedType(typeof(AddBase), "addBase")]
[JsonDerivedType(typeof(Begin), "begin")]
[JsonDerivedType(typeof(SetWords), "words")]
[JsonDerivedType(typeof(TakeApart), "takeApart")]
[JsonDerivedType(typeof(LayTreated), "layTreated")]
[JsonDerivedType(typeof(CloseLines), "close")]
[JsonDerivedType(typeof(AddHole), "addHole")]
[JsonDerivedType(typeof(SetGap), "gap")]
[JsonDerivedType(typeof(AddFold), "addFold")]
[JsonDerivedType(typeof(AddMats), "addMats")]
[JsonDerivedType(typeof(AddJoined), "addJoined")]
[JsonDerivedType(typeof(Series), "series")]
public abstract record Edit
{
    /// <summary>What it did, for the history: "Score 3 lines".</summary>
    public abstract string Describe(Design before);

    /// <summary>What it changes by itself. Whoever makes an edit for a person calls <see cref="Make"/>.</summary>
    public abstract Design Apply(Design design);

    /// <summary>The design after it, with what is held (<see cref="Hold"/>) where it belongs then.</summary>
    public Design Make(Design design) => Hold.Follow(design, LetsGo(design, Apply(design)));

    /// <summary>The design after it, without the holds that it ends.</summary>
    private protected virtual Design LetsGo(Design before, Design after) => after;

    /// <summary>The design that a docket begins with, for an edit that can be its first; null for all others.</summary>
    [JsonIgnore]
    public virtual Design? First => null;

    /// <summary>Why it can't be done, as a sentence for whoever asked for it; null where it can.</summary>
    public virtual string? Refusal(Design before) => null;

    /// <summary>What of the design it can't keep though nobody asked for that to go, as a sentence that is said before; null where all is kept.</summary>
    public virtual string? Loses(Design before) => null;

    /// <summary>What this and a next small step of the same gesture come to, as one edit; null where they are two things.</summary>
    public virtual Edit? With(Edit next) => null;

    /// <summary>The ids that it names, to show what it was about.</summary>
    [JsonIgnore]
    public virtual ImmutableArray<string> About => [];

    /// <summary>Things by name: "“Sky” and “Hut”", "5 pieces", "2 lines".</summary>
    private protected static string Names(Design design, ImmutableArray<string> ids)
    {
        var labels = ids.Select(design.Piece).OfType<Piece>().Select(p => $"“{p.Label}”").ToList();
        if (labels.Count == 0 && ids.Select(design.Line).OfType<LaidLine>().ToList() is { Count: > 0 } lines)
            return lines is [{ Line.Words: { } w }] ? $"“{Lettered.Short(w.Words.Text)}”" : Count(lines.Count, "line");
        return labels.Count is 0 or > 3 ? Count(labels.Count, "piece") : labels.Count == 1 ? labels[0]
            : $"{string.Join(", ", labels[..^1])} and {labels[^1]}";
    }

    private protected static string Count(int n, string one) => n == 1 ? $"1 {one}" : $"{n} {one}s";

    /// <summary>Pieces that carry one of the lines.</summary>
    private protected static IEnumerable<string> Carriers(Design design, ImmutableArray<string> lineIds) =>
        design.Pieces.Where(p => p.AllLines.Any(l => lineIds.Contains(l.Id))).Select(p => p.Id);
}

/// <summary>Gives lines an operation, one by one. One that was drawn as a hole and is cut is a hole again.</summary>
public sealed record SetLineOperation(ImmutableArray<string> LineIds, Operation Operation) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"{Operation} {Count(LineIds.Length, "line")}";

    public override Design Apply(Design design)
    {
        var next = design.ChangeLines(LineIds,
            (l, _) => l with { Operation = Operation, Origin = l.Origin?.Settled(Become.Chosen) });
        var carriers = Carriers(design, LineIds).ToList();
        return Carrying.SettleHoles(next.ChangePieces(carriers, Carrying.WithFolds), carriers);
    }
}

/// <summary>
/// Gives everything of one look an operation: lines, outer edges, and holes that were drawn as outlines. A hole that is no longer cut becomes a line
/// on its piece, and its paper stays; cut again, it is a hole again.
/// </summary>
public sealed record SetLookOperation(string LookKey, Operation Operation) : Edit
{
    /// <summary>Why, as it will stand beside each line.</summary>
    public string Reason { get; init; } = "chosen by you for this look";

    public override string Describe(Design before) => $"{Operation}: {before.LookOf(LookKey)?.Describe() ?? "a look"}";

    public override Design Apply(Design design)
    {
        var changed = new List<string>();
        var next = design with
        {
            AllPieces = design.AllPieces.Change(p =>
            {
                if (p.LeftOut is not null) return p;
                var edges = p.Edges.Change(e => (e.Origin?.Look ?? p.Look) == LookKey && e.Operation != Operation
                    ? e with { Operation = Operation, Origin = e.Origin?.Settled(Reason) } : e);
                var lines = p.AllLines.Change(Changed);
                if (edges == p.Edges && lines == p.AllLines) return p;
                changed.Add(p.Id);
                return Carrying.WithFolds(p with { Edges = edges, AllLines = lines });
            }),
            AllLoose = design.AllLoose.Change(Changed),
        };
        return Carrying.SettleHoles(next, changed);

        Line Changed(Line l) => l.LeftOut is null && l.Origin is { } o && o.Look == LookKey
            ? l with { Operation = Operation, Origin = o.Settled(Reason) } : l;
    }
}

/// <summary>Gives the outer edges, the holes, or both of some pieces an operation.</summary>
public sealed record SetOutlineOperation(ImmutableArray<string> PieceIds, Operation Operation, bool Outer, bool Holes) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) =>
        $"{Operation} {(Outer && Holes ? "outlines" : Outer ? "outer edges" : "holes")} of {Count(PieceIds.Length, "piece")}";

    public override Design Apply(Design design) => Carrying.SettleHoles(
        design.ChangePieces(PieceIds, p =>
            p with { Edges = [.. p.Edges.Select((e, i) => (p.IsOuter(i) ? Outer : Holes) ? e with { Operation = Operation } : e)] }), PieceIds);
}

/// <summary>Says on which side of the paper lines are made.</summary>
public sealed record SetFace(ImmutableArray<string> LineIds, Face Face) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"{Count(LineIds.Length, "line")} on the {(Face == Face.Inner ? "inner" : "outer")} face";

    public override Design Apply(Design design) => design.ChangeLines(LineIds, (l, _) => l with { Face = Face });
}

/// <summary>Puts a plain piece under all loose lines, larger than they are by a margin on each side.</summary>
public sealed record LayOnPaper(Length Margin) : Edit
{
    public override string Describe(Design before) => "Lay the lines on paper";

    public override Design Apply(Design design)
    {
        var box = Box.Empty;
        foreach (var l in design.Loose) box = box.With(l.Path.Bounds);
        if (box.IsEmpty) return design;
        box = box.Grown(Margin.Mm);
        var paper = Fresh.Paper;
        design = design.WithId("y", out var ply).WithId("p", out var id);
        var piece = new Piece
        {
            Id = id,
            Label = "Paper",
            PlyId = ply,
            Place = Place.Own.Moved(new(box.Left, box.Top)),
            Shape = new Made("rectangle", ImmutableSortedDictionary<string, double>.Empty.Add("width", box.Width).Add("height", box.Height)),
            Edges = [new(Operation.Cut)],
            Colour = paper,
        };
        design = design with { AllPlies = design.AllPlies.Insert(0, new(ply, "Paper", paper)), AllPieces = design.AllPieces.Insert(0, piece) };
        return Carrying.TakeIn(design, [id]);
    }
}

/// <summary>Says which way folds go.</summary>
public sealed record SetFoldSide(ImmutableArray<string> LineIds, FoldSide Side) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"{Side} fold";

    public override Design Apply(Design design) => design.ChangePieces(Carriers(design, LineIds), p => p with
    {
        Folds = [.. p.Folds.Where(f => !LineIds.Contains(f.LineId)), .. p.Lines.Where(l => LineIds.Contains(l.Id)).Select(l => new Fold(l.Id, Side))],
    });
}

/// <summary>Makes folds shorter so that they stop short of the edge of their piece.</summary>
public sealed record SetFoldsBack(ImmutableArray<string> LineIds, Length Setback) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"Shorten {Count(LineIds.Length, "fold")}";

    public override Design Apply(Design design) =>
        design.ChangeLines(LineIds, (l, by) => by is null ? l : l with { Path = Folds.SetBack(l.Path, by.Outline, Setback) });
}

/// <summary>Removes lines, pictures and pieces. What a removed piece carried goes with it.</summary>
public sealed record Remove(ImmutableArray<string> Ids) : Edit
{
    public override ImmutableArray<string> About => Ids;

    public override string Describe(Design before) => $"Remove {Count(Ids.Length, "item")}";

    public override Design Apply(Design design)
    {
        var gone = Ids.ToHashSet(StringComparer.Ordinal);
        var pieces = design.AllPieces.RemoveAll(p => p.LeftOut is null && gone.Contains(p.Id)).Change(p =>
        {
            if (p.LeftOut is not null || !(p.Lines.Any(l => gone.Contains(l.Id)) || p.Artwork.Any(a => gone.Contains(a.Id)))) return p;
            return Carrying.Without(p, p.Lines.Where(l => gone.Contains(l.Id))
                .Select(l => l.Id)) with
            { AllArtwork = p.AllArtwork.RemoveAll(a => a.LeftOut is null && gone.Contains(a.Id)), };
        });
        return design with
        {
            AllPieces = pieces,
            AllPlies = InUse(design.AllPlies, pieces),
            AllLoose = design.AllLoose.RemoveAll(l => l.LeftOut is null && gone.Contains(l.Id)),
            AllLooseArtwork = design.AllLooseArtwork.RemoveAll(a => a.LeftOut is null && gone.Contains(a.Id)),
        };
    }

    /// <summary>The plies that a piece lies on.</summary>
    internal static ImmutableArray<Ply> InUse(ImmutableArray<Ply> plies, ImmutableArray<Piece> pieces)
    {
        var used = pieces.Select(p => p.PlyId).ToHashSet(StringComparer.Ordinal);
        return plies.All(y => used.Contains(y.Id)) ? plies : plies.RemoveAll(y => !used.Contains(y.Id));
    }
}

/// <summary>
/// Makes pieces of lines: a closed or almost closed one becomes its outline, one that is drawn thick becomes what its stroke covers. Loose lines inside are
/// carried by the new piece. It is of the colour and paper that it was drawn as, or that the other pieces of its look are, and lies where its place in the
/// order of its file is.
/// </summary>
public sealed record MakePieces(ImmutableArray<string> LineIds) : Edit
{
    /// <summary>From here on a line's thickness is likely to be meant.</summary>
    internal static readonly Length Thick = Length.FromMm(1.2);

    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"Make {Count(LineIds.Length, "piece")} of lines";

    public override Design Apply(Design design)
    {
        var fresh = new List<string>();
        foreach (var line in design.Lines.Where(l => LineIds.Contains(l.Id)).ToList())
        {
            var thick = line.Ink.Stroke is { } s && s.Width >= Thick ? s.Width : Length.Zero;
            var outlines = thick > Length.Zero ? Region.Along(line.Path, thick).ToPaths() : [Closed(line.Path)];
            outlines = [.. outlines.Where(o => !o.Subpaths.IsEmpty && Math.Abs(Polygons.SignedArea(o.Rings[0])) > 1e-6)];
            // A line that encloses nothing makes no piece, and stays.
            if (outlines.Count == 0) continue;
            design = new Remove([line.Id]).Apply(design);
            foreach (var outline in outlines)
            {
                var like = line.Line.Origin is { Look.Length: > 0 } drawn ? design.Pieces.FirstOrDefault(p => p.Look == drawn.Look) : null;
                var colour = (thick > Length.Zero ? line.Ink.Stroke!.Colour : line.Line.Origin?.Ink.Fill ?? like?.Colour ?? Fresh.Paper) with { Alpha = 1 };
                var name = ColourNames.Of(colour) is { } word ? char.ToUpperInvariant(word[0]) + word[1..] : "Piece";
                var ply = like?.PlyId ?? design.Plies.FirstOrDefault(y => y.Colour == colour)?.Id;
                if (ply is null)
                {
                    design = design.WithId("y", out ply);
                    design = design with { AllPlies = design.AllPlies.Insert(PlaceInOrder(design, line.Line.Origin?.Order), new(ply, name, colour)) };
                }

                design = design.WithId("p", out var id);
                fresh.Add(id);
                design = design with
                {
                    AllPieces = design.AllPieces.Add(new()
                    {
                        Id = id,
                        Label = Fresh.Label(design, line.Label.Length > 0 ? line.Label : name),
                        PlyId = ply,
                        StockId = like?.StockId,
                        Shape = new Drawn(outline),
                        Edges = [.. outline.Subpaths.Select(_ => new Edge(Operation.Cut))],
                        Colour = colour,
                        Origin = line.Line.Origin is not { } o ? null : o with
                        {
                            Why = thick > Length.Zero ? "what a thick line covers, chosen by you" : "an outline that was closed by you",
                            IsHole = false,
                        },
                    }),
                };
            }
        }

        return Carrying.TakeIn(design, fresh);

        // Below the first ply on which all was drawn later; on top where nobody knows.
        static int PlaceInOrder(Design design, int? order)
        {
            var orders = design.Pieces.ToLookup(p => p.PlyId, p => p.Origin?.Order);
            var at = order is null ? -1 : design.AllPlies.ToList().FindIndex(y => orders[y.Id].Any() && orders[y.Id].All(o => o > order));
            return at < 0 ? design.AllPlies.Length : at;
        }

        static VectorPath Closed(VectorPath path)
        {
            var sub = path.Subpaths[0] with { Closed = true };
            return new([Polygons.SignedArea(new VectorPath([sub]).Rings[0]) > 0 ? sub : sub.Reverse()]);
        }
    }
}

/// <summary>Takes pieces (with what they carry), lines and pictures out of the card; they stay where they were, and can be put back.</summary>
public sealed record LeaveOut(ImmutableArray<string> Ids) : Edit
{
    public override ImmutableArray<string> About => Ids;

    public override string Describe(Design before) => $"Leave out {Count(Ids.Length, "item")}";

    public override Design Apply(Design design)
    {
        var gone = Ids.ToHashSet(StringComparer.Ordinal);
        var next = design.WithId("o", out var part);
        next = next with
        {
            AllPieces = design.AllPieces.Change(p => p.LeftOut is not null ? p : gone.Contains(p.Id) ? p with { LeftOut = part }
                : p.Lines.Any(l => gone.Contains(l.Id)) || p.Artwork.Any(a => gone.Contains(a.Id))
                ? p with { AllLines = p.AllLines.Change(Line), AllArtwork = p.AllArtwork.Change(Art) } : p),
            AllLoose = design.AllLoose.Change(Line),
            AllLooseArtwork = design.AllLooseArtwork.Change(Art),
        };
        return next.AllPieces == design.AllPieces && next.AllLoose == design.AllLoose && next.AllLooseArtwork == design.AllLooseArtwork ? design : next;

        Line Line(Line l) => l.LeftOut is null && gone.Contains(l.Id) ? l with { LeftOut = part } : l;

        Artwork Art(Artwork a) => a.LeftOut is null && gone.Contains(a.Id) ? a with { LeftOut = part } : a;
    }

    /// <summary>What is left out of a design, by the part that it was left out with, the oldest first.</summary>
    internal static ImmutableArray<LeftOutPart> PartsOf(Design design)
    {
        var parts = new Dictionary<string, (List<string> Pieces, int Lines)>(StringComparer.Ordinal);
        (List<string> Pieces, int Lines) Of(string part) => parts.TryGetValue(part, out var its) ? its : ([], 0);
        foreach (var p in design.AllPieces)
        {
            if (p.LeftOut is { } part)
            {
                var its = Of(part);
                its.Pieces.Add(p.Label);
                parts[part] = its;
            }

            foreach (var l in p.AllLines) Line(l.LeftOut);
            foreach (var a in p.AllArtwork) Seen(a.LeftOut);
        }

        foreach (var l in design.AllLoose) Line(l.LeftOut);
        foreach (var a in design.AllLooseArtwork) Seen(a.LeftOut);
        return [.. parts.OrderBy(p => p.Key.Length).ThenBy(p => p.Key, StringComparer.Ordinal)
            .Select(p => new LeftOutPart(p.Key, p.Value.Pieces is [var only] ? only
            : p.Value.Pieces is [var first, ..] ? $"{first} and {Count(p.Value.Pieces.Count - 1, "more piece")}" : p.Value.Lines > 0
            ? Count(p.Value.Lines, "line") : "a picture"))];

        void Line(string? part)
        {
            if (part is not null && Of(part) is var its) parts[part] = (its.Pieces, its.Lines + 1);
        }

        void Seen(string? part)
        {
            if (part is not null) parts[part] = Of(part);
        }
    }
}

/// <summary>Puts back what was left out, where it was.</summary>
public sealed record PutBack(string PartId) : Edit
{
    public override string Describe(Design before) => $"Put back {before.LeftOut.FirstOrDefault(o => o.Id == PartId)?.Label ?? "a part"}";

    public override Design Apply(Design design)
    {
        return design with
        {
            AllPieces = design.AllPieces.Change(p =>
            {
                var (lines, artwork) = (p.AllLines.Change(Line), p.AllArtwork.Change(Art));
                return p.LeftOut != PartId && lines == p.AllLines && artwork == p.AllArtwork ? p
                    : p with { LeftOut = p.LeftOut == PartId ? null : p.LeftOut, AllLines = lines, AllArtwork = artwork };
            }),
            AllLoose = design.AllLoose.Change(Line),
            AllLooseArtwork = design.AllLooseArtwork.Change(Art),
        };

        Line Line(Line l) => l.LeftOut == PartId ? l with { LeftOut = null } : l;

        Artwork Art(Artwork a) => a.LeftOut == PartId ? a with { LeftOut = null } : a;
    }
}

/// <summary>Places another design to the right of this one, as it is, on plies of its own above.</summary>
public sealed record BringBeside(Design Other, string Name) : Edit
{
    private const double BetweenMm = 10, FarthestMm = 10_000;

    /// <summary>Where the middle of what comes is laid; null lays it beside what is there.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Point? At { get; init; }

    public override Design? First => Other;

    public override string? Refusal(Design before) => At is { } at && !(Math.Abs(at.X) <= FarthestMm && Math.Abs(at.Y) <= FarthestMm)
        ? "That is farther than ten metres; nothing was changed." : null;

    public override string Describe(Design before) => $"Bring in {Name}";

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        Box here = design.Extent, there = Other.Extent;
        var next = TakeIn(design, Other, At is { } at ? at - there.Centre : new(here.Right + BetweenMm - there.Left, here.Top - there.Top));
        var all = next.Extent;
        return next.WithPageOver(all.Right, all.Bottom);
    }

    /// <summary>The design with all of another, moved, on top. All that comes gets new ids, so that none meets one that is, or was, there.</summary>
    internal static Design TakeIn(Design design, Design other, Point by)
    {
        var last = design.LastId;
        var names = new Dictionary<string, string>(StringComparer.Ordinal);
        string Named(string id) => names.TryGetValue(id, out var known) ? known : names[id] = string.Create(CultureInfo.InvariantCulture, $"{id[0]}{++last}");
        string? Part(string? id) => id is null ? null : Named(id);
        var order = design.AllPieces.Select(p => p.Origin?.Order ?? 0).Concat(design.AllLoose.Select(l => l.Origin?.Order ?? 0))
            .Concat(design.AllPieces.SelectMany(p => p.AllLines).Select(l => l.Origin?.Order ?? 0)).Append(0).Max() + 1;
        Origin? From(Origin? o) => o is null ? null : o with { Order = o.Order + order, Source = o.Source.Length == 0 ? "" : Named(o.Source) };
        var move = Affine.Move(by.X, by.Y);
        Line Line(Line l, bool loose) =>
            (loose ? l.Through(move) : l) with { Id = Named(l.Id), LeftOut = Part(l.LeftOut), Origin = From(l.Origin) };
        Artwork Art(Artwork a, bool loose) =>
            a with { Id = Named(a.Id), Map = loose ? a.Map.Then(move) : a.Map, LeftOut = Part(a.LeftOut), Origin = From(a.Origin) };
        var sources = other.Sources.Select(s => s with { Id = Named(s.Id), Scale = other.ScaleOf(s) }).ToList();
        var plies = other.AllPlies.Select(y => y with { Id = Named(y.Id) }).ToList();
        var pieces = other.AllPieces.Select(p => p with
        {
            Id = Named(p.Id),
            PlyId = Named(p.PlyId),
            Place = p.Place.Moved(by),
            Edges = p.Edges.Change(e => e.Origin is null ? e : e with { Origin = From(e.Origin) }),
            AllLines = [.. p.AllLines.Select(l => Line(l, false))],
            AllArtwork = [.. p.AllArtwork.Select(a => Art(a, false))],
            Folds = [.. p.Folds.Select(f => f with { LineId = Named(f.LineId) })],
            // What lies beside others is aligned to nothing of theirs.
            Held = null,
            LeftOut = Part(p.LeftOut),
            Origin = From(p.Origin),
        }).ToList();
        var loose = other.AllLoose.Select(l => Line(l, true)).ToList();
        var pictures = other.AllLooseArtwork.Select(a => Art(a, true)).ToList();
        return design with
        {
            LastId = last,
            AllPlies = design.AllPlies.AddRange(plies),
            AllPieces = design.AllPieces.AddRange(pieces),
            AllLoose = design.AllLoose.AddRange(loose),
            AllLooseArtwork = design.AllLooseArtwork.AddRange(pictures),
            Sources = design.Sources.AddRange(sources),
            Looks = design.Looks.AddRange(other.Looks.Where(l => design.LookOf(l.Key) is null)),
            Notes = design.Notes.AddRange(other.Notes.Select(x => x with { At = x.At + by })),
        };
    }
}

/// <summary>Replaces what came from one picture by what another tracing makes of it; everything else of the card stays as it is.</summary>
public sealed record TraceAgain(string SourceId, Design Traced) : Edit
{
    public override string Describe(Design before) => "Trace the picture again";

    public override Design Apply(Design design)
    {
        if (design.Sources.FirstOrDefault(s => s.Id == SourceId) is not { } source) return design;
        bool Its(Origin? o) => o?.Source == SourceId;
        // Where its first piece was put, beside others, the new ones are put.
        var at = design.AllPieces.FirstOrDefault(p => Its(p.Origin))?.Place is { Turn.Degrees: 0, Mirrored: false } place ? place.Shift : default;
        var pieces = design.AllPieces.RemoveAll(p => Its(p.Origin))
            .Change(p => p.AllLines.Any(l => Its(l.Origin)) ? Carrying.Without(p, p.AllLines.Where(l => Its(l.Origin)).Select(l => l.Id)) : p);
        var rest = design with
        {
            AllPieces = pieces,
            AllPlies = Remove.InUse(design.AllPlies, pieces),
            AllLoose = design.AllLoose.RemoveAll(l => Its(l.Origin)),
            AllLooseArtwork = design.AllLooseArtwork.RemoveAll(a => Its(a.Origin)),
        };
        var next = BringBeside.TakeIn(rest, Traced, at);
        // The tracing is of the source that was there; what it brought keeps the name that this has.
        var fresh = next.Sources[^1];
        // The page is the picture's, where there is nothing else; otherwise it holds both.
        var alone = design.Sources.Length == 1 && source.Scale is null;
        var scale = design.ScaleOf(source);
        if (Traced.Scale.PxPerInch != scale.PxPerInch) scale = Traced.Scale;
        next = next with
        {
            Scale = alone ? scale : design.Scale,
            Width = alone ? Traced.Width : Length.FromMm(Math.Max(design.Width.Mm, Traced.Width.Mm)),
            Height = alone ? Traced.Height : Length.FromMm(Math.Max(design.Height.Mm, Traced.Height.Mm)),
            Sources = design.Sources.Change(s => s.Id == SourceId
                ? source with { Tracing = fresh.Tracing, Scale = alone || scale == design.Scale ? null : scale } : s),
        };
        return Renamed(next, fresh.Id, SourceId);
    }

    /// <summary>Whether what was made of a picture is worked on since: its pieces are otherwise than a place where all of them lie together.</summary>
    /// <param name="then">The design when the picture was brought in, or traced last.</param>
    public static bool Loses(Design then, Design now, string sourceId)
    {
        if (then.Scale.PxPerInch != now.Scale.PxPerInch) then = new SetScale(now.Scale.PxPerInch).Apply(then);
        List<Piece> Its(Design d) => [.. d.AllPieces.Where(p => p.Origin?.Source == sourceId)];
        var (before, after) = (Its(then), Its(now));
        if (before.Count != after.Count) return true;
        if (before.Count == 0) return false;
        // To move all together is no work: the new pieces come to lie there.
        var by = after[0].Place.Shift - before[0].Place.Shift;
        return before.Zip(after).Any(p => !(p.First with { Place = p.Second.Place }).Equals(p.Second)
            || (p.Second.Place.Shift - p.First.Place.Shift).DistanceTo(by) > 1e-6
            || (p.First.Place.Turn, p.First.Place.Mirrored) != (p.Second.Place.Turn, p.Second.Place.Mirrored));
    }

    private static Design Renamed(Design design, string from, string to)
    {
        Origin? Of(Origin? o) => o?.Source == from ? o with { Source = to } : o;
        Line Line(Line l) => l.Origin?.Source == from ? l with { Origin = Of(l.Origin) } : l;
        return design with
        {
            AllPieces = design.AllPieces.Change(p => p.Origin?.Source == from || p.AllLines.Any(l => l.Origin?.Source == from)
                ? p with
                {
                    Origin = Of(p.Origin),
                    Edges = p.Edges.Change(e => e.Origin?.Source == from ? e with { Origin = Of(e.Origin) } : e),
                    AllLines = p.AllLines.Change(Line),
                    AllArtwork = p.AllArtwork.Change(a => a.Origin?.Source == from ? a with { Origin = Of(a.Origin) } : a),
                }
                : p),
            AllLoose = design.AllLoose.Change(Line),
            AllLooseArtwork = design.AllLooseArtwork.Change(a => a.Origin?.Source == from ? a with { Origin = Of(a.Origin) } : a),
        };
    }
}

/// <summary>Moves pieces, lines and what is printed by so much.</summary>
public sealed record Move(ImmutableArray<string> Ids, Length Right, Length Down) : Edit
{
    public override ImmutableArray<string> About => Ids;

    public override string Describe(Design before) => Ids is [var one] && before.Piece(one) is { } piece ? $"Move {piece.Label}"
        : $"Move {Count(Ids.Length, "item")}";

    public override Design Apply(Design design)
    {
        var by = new Point(Right.Mm, Down.Mm);
        if (by == default) return design;
        var map = Affine.Move(by.X, by.Y);
        return Carrying.MoveCarried(design, Ids, map).ChangePieces(Ids, p => p with { Place = p.Place.Moved(by) });
    }

    public override Edit? With(Edit next) => next is Move m && m.Ids.Same(Ids) ? this with { Right = Right + m.Right, Down = Down + m.Down } : null;
}

/// <summary>Turns pieces and lines about one point of the card; without one, about the middle of the box around them all.</summary>
public sealed record Turn(ImmutableArray<string> PieceIds, Angle By, Point? At = null) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Turn {Names(before, PieceIds)} by {By}";

    public override Design Apply(Design design) => Middle(design, PieceIds, At) is not { } at ? design
        : Carrying.MoveCarried(design, PieceIds, Affine.Move(-at.X, -at.Y).Then(Affine.Turn(By)).Then(Affine.Move(at.X, at.Y)))
            .ChangePieces(PieceIds, p => p with { Place = p.Place.Turned(By, at) });

    /// <summary>The point itself, or the middle of the box around the pieces; null where none of them is there.</summary>
    internal static Point? Middle(Design design, ImmutableArray<string> ids, Point? at)
    {
        var box = Align.Around(design, ids);
        return box.IsEmpty ? null : at ?? box.Centre;
    }

    public override Edit? With(Edit next) => next is Turn t && t.PieceIds.Same(PieceIds) && At is not null && t.At == At ? this with { By = By + t.By } : null;
}

/// <summary>Mirrors pieces and lines at an axis through a point of the card; without one, through the middle of the box around them all.</summary>
public sealed record Mirror(ImmutableArray<string> PieceIds, MirrorAxis Axis, Point? At = null) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Mirror {Names(before, PieceIds)}";

    public override Design Apply(Design design)
    {
        if (Turn.Middle(design, PieceIds, At) is not { } at) return design;
        var flip = Axis == MirrorAxis.Upright ? Affine.Scale(-1, 1) : Affine.Scale(1, -1);
        return Carrying.MoveCarried(design, PieceIds, Affine.Move(-at.X, -at.Y).Then(flip).Then(Affine.Move(at.X, at.Y)))
            .ChangePieces(PieceIds, p => p with { Place = p.Place.MirroredAt(Axis, at) });
    }
}

/// <summary>Treats pieces. One of which nothing would be left stays as it is; what no longer lies in the paper becomes loose.</summary>
public sealed record Treat(ImmutableArray<string> PieceIds, Treatment Treatment) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"{Names(before, PieceIds)}: {Treatment.Describe()}";

    public override string? Refusal(Design before)
    {
        if (Treatment.Fault() is { } fault) return $"It can't be done: {fault}.";
        var pieces = PieceIds.Select(before.Piece).OfType<Piece>().ToList();
        if (pieces.Count == 0) return "The piece is gone.";
        return pieces.Find(p => Outlines.Derive(p.Shape, Treatment.AddedTo(p.Treatments)).IsEmpty) is { } none
            ? $"Nothing of “{none.Label}” would be left." : null;
    }

    public override Design Apply(Design design) => Treatment.Fault() is null ? Reshaped(design, PieceIds, p => Treatment.AddedTo(p.Treatments)) : design;

    internal static Design Reshaped(Design design, ImmutableArray<string> ids, Func<Piece, ImmutableArray<Treatment>> treatments)
    {
        foreach (var id in ids.Distinct(StringComparer.Ordinal))
        {
            if (design.Piece(id) is not { } piece) continue;
            var wanted = treatments(piece);
            if (wanted.Same(piece.Treatments) || Outlines.Derive(piece.Shape, wanted).IsEmpty) continue;
            design = Carrying.Reshape(design, piece, piece.Shape, wanted);
        }

        return design;
    }
}

/// <summary>Takes a treatment of a piece off, by its place in the row, from 0.</summary>
public sealed record Untreat(string PieceId, int Index) : Edit
{
    public override ImmutableArray<string> About => [PieceId];

    public override string Describe(Design before) => "Take a treatment off";

    public override Design Apply(Design design) =>
        Treat.Reshaped(design, [PieceId], p => Index >= 0 && Index < p.Treatments.Length ? p.Treatments.RemoveAt(Index) : p.Treatments);
}

/// <summary>Names the panel that a point of a piece, in the piece's coordinates, lies in; an empty name takes it off.</summary>
public sealed record NamePanel(string PieceId, Point At, string Name) : Edit
{
    public const int Longest = 40;

    public override ImmutableArray<string> About => [PieceId];

    public override string Describe(Design before) => $"Name a panel “{Name}”";

    public override Design Apply(Design design) => design.ChangePieces([PieceId], p =>
    {
        var area = Panels.Of(p).FirstOrDefault(a => a.Bounds.Holds(At));
        return area is null ? p : p with
        {
            Panels =
            [.. p.Panels.Where(n => !area.Bounds.Holds(n.At)), .. Name.Length > 0 ? [new Panel(Name, At)] : Array.Empty<Panel>()],
        };
    });
}

/// <summary>Moves a ply to another place in the stack; 0 is the bottom.</summary>
public sealed record MovePly(string PlyId, int To) : Edit
{
    public override string Describe(Design before) => $"Move ply “{before.Ply(PlyId)?.Label}”";

    public override Design Apply(Design design)
    {
        if (design.Ply(PlyId) is not { } ply) return design;
        var rest = design.Plies.Remove(ply);
        var to = Math.Clamp(To, 0, rest.Length);
        // Plies of which all is left out keep their place beside the one below them.
        var all = design.AllPlies.Remove(ply);
        var at = to == 0 ? (rest.IsEmpty ? 0 : all.IndexOf(rest[0])) : all.IndexOf(rest[to - 1]) + 1;
        return design with { AllPlies = all.Insert(at, ply) };
    }
}

/// <summary>Puts pieces on another ply.</summary>
public sealed record PutOnPly(ImmutableArray<string> PieceIds, string PlyId) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Put {Count(PieceIds.Length, "piece")} on “{before.Ply(PlyId)?.Label}”";

    public override Design Apply(Design design)
    {
        if (design.Ply(PlyId) is null) return design;
        var next = design.ChangePieces(PieceIds, p => p.PlyId == PlyId ? p : p with { PlyId = PlyId });
        return next with { AllPlies = Remove.InUse(next.AllPlies, next.AllPieces) };
    }
}

/// <summary>Puts pieces on a ply of their own, above all others.</summary>
public sealed record PutOnNewPly(ImmutableArray<string> PieceIds) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Put {Names(before, PieceIds)} on a new ply";

    public override string? Refusal(Design before) => PieceIds.All(id => before.Piece(id) is null) ? "The piece is gone." : null;

    public override Design Apply(Design design)
    {
        if (PieceIds.Select(design.Piece).FirstOrDefault(p => p is not null) is not { } first) return design;
        design = design.WithId("y", out var ply);
        design = design with { AllPlies = design.AllPlies.Add(new(ply, first.Label, first.Colour)) };
        var pieces = design.ChangePieces(PieceIds, p => p with { PlyId = ply }).AllPieces;
        return design with { AllPieces = pieces, AllPlies = Remove.InUse(design.AllPlies, pieces) };
    }
}

/// <summary>Lays pieces on top of, or below, all others of their ply.</summary>
public sealed record LayInFront(ImmutableArray<string> PieceIds, bool Front) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Lay {Names(before, PieceIds)} {(Front ? "in front" : "at the back")} of its ply";

    public override Design Apply(Design design)
    {
        bool Named(Piece p) => p.LeftOut is null && PieceIds.Contains(p.Id);
        var (named, rest) = (design.AllPieces.Where(Named), design.AllPieces.RemoveAll(Named));
        ImmutableArray<Piece> next = Front ? [.. rest, .. named] : [.. named, .. rest];
        return next.SequenceEqual(design.AllPieces) ? design : design with { AllPieces = next };
    }
}

/// <summary>Says what a ply stands on above the one below: foam or pads so high; zero glues it flat.</summary>
public sealed record SetFoam(string PlyId, Length Foam) : Edit
{
    internal const double MostMm = 50;

    public override string Describe(Design before) => Foam == Length.Zero ? $"Glue “{before.Ply(PlyId)?.Label}” flat"
        : $"{Foam} of foam beneath “{before.Ply(PlyId)?.Label}”";

    public override string? Refusal(Design before) => before.Ply(PlyId) is null ? "The ply is gone." : Foam.Mm is >= 0 and <= MostMm ? null
        : $"Foam is 0 to {MostMm} mm high.";

    public override Design Apply(Design design) => Refusal(design) is not null ? design
        : design with { AllPlies = design.AllPlies.Change(y => y.Id == PlyId && y.Foam != Foam ? y with { Foam = Foam } : y) };
}

/// <summary>Gives a piece or a ply another name.</summary>
public sealed record Rename(string Id, string Label) : Edit
{
    public override ImmutableArray<string> About => [Id];

    public override string Describe(Design before) => $"Name “{Label}”";

    public override Design Apply(Design design) =>
        design.ChangePieces([Id], p => p with { Label = Label }) with { AllPlies = design.AllPlies.Change(y => y.Id == Id ? y with { Label = Label } : y) };
}

/// <summary>Sends pieces to a stock; an empty id goes back to matching by colour.</summary>
public sealed record AssignStock(ImmutableArray<string> PieceIds, string StockId) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Change the stock of {Count(PieceIds.Length, "piece")}";

    public override Design Apply(Design design) => design.ChangePieces(PieceIds, p => p with { StockId = StockId.Length == 0 ? null : StockId });
}

/// <summary>Says how many of some pieces a card takes, and how many are made to spare.</summary>
public sealed record SetNumber(ImmutableArray<string> PieceIds, PieceNumber Number) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Make {Number.PerCard} of {Count(PieceIds.Length, "piece")} for each card"
        + (Number.Spare > 0 ? $", and {Number.Spare} to spare" : "");

    public override string? Refusal(Design design) => base.Refusal(design)
        ?? (Number.IsPossible ? null : $"A card takes 1 to {PieceNumber.Most} of a piece, and up to {PieceNumber.Most} are made to spare.");

    public override Design Apply(Design design) => Number.IsPossible ? design.ChangePieces(PieceIds, p => p with { Number = Number }) : design;
}

/// <summary>
/// Settles how many pixels of the file make an inch, and rescales everything to it, also what is left out and how things looked. Treatments keep their amounts.
/// At 72 instead of 96, everything becomes a third larger.
/// </summary>
public sealed record SetScale(double PxPerInch) : Edit
{
    public override string Describe(Design before) => string.Create(CultureInfo.InvariantCulture, $"Size at {PxPerInch:0.##} pixels in an inch");

    public override Design Apply(Design design)
    {
        var factor = design.Scale.PxPerInch / PxPerInch;
        var by = Affine.Scale(factor, factor);
        var keys = new Dictionary<string, string>(StringComparer.Ordinal);
        var looks = new List<Look>();
        foreach (var look in design.Looks)
        {
            var scaled = look.Scaled(factor);
            keys[look.Key] = scaled.Key;
            if (looks.TrueForAll(l => l.Key != scaled.Key)) looks.Add(scaled);
        }

        var fallen = ImmutableArray.CreateBuilder<Line>();
        var pieces = design.AllPieces.Select(ScaledPiece).ToImmutableArray();
        return design with
        {
            Width = design.Width * factor,
            Height = design.Height * factor,
            Scale = new(PxPerInch, true, string.Create(CultureInfo.InvariantCulture, $"chosen by you: {PxPerInch:0.##} pixels in an inch")),
            Sources = design.Sources.Change(s => s.Scale is { } own ? s with { Scale = own with { PxPerInch = own.PxPerInch / factor } } : s),
            AllPieces = pieces,
            AllLoose = [.. design.AllLoose.Select(ScaledLine), .. fallen],
            AllLooseArtwork = [.. design.AllLooseArtwork.Select(ScaledArt)],
            Looks = [.. looks],
            Notes = [.. design.Notes.Select(n => n with { At = n.At * factor })],
            Rules = design.Rules is { } rules ? rules with { Before = [.. rules.Before.Select(r => r with { Look = keys.GetValueOrDefault(r.Look, r.Look) })] }
                : null,
        };

        Piece ScaledPiece(Piece p)
        {
            var next = p with
            {
                Place = p.Place with { Shift = p.Place.Shift * factor },
                AllLines = [.. p.AllLines.Select(ScaledLine)],
                AllArtwork = [.. p.AllArtwork.Select(ScaledArt)],
                Panels = [.. p.Panels.Select(n => n with { At = n.At * factor })],
                Edges = p.Edges.Change(e => e.Origin is null ? e : e with { Origin = From(e.Origin) }),
                Origin = From(p.Origin),
            };
            var shape = p.Shape.Scaled(factor);
            if (p.Treatments.IsEmpty) return next with { Shape = shape };
            // At the new size a treatment may leave other rings than before, or nothing; then it goes.
            var treatments = Outlines.Derive(shape, p.Treatments).IsEmpty ? [] : p.Treatments;
            var (reshaped, lines, _) = Carrying.Reshape(next with { Shape = shape, Treatments = [], Edges = Unrolled(next.Edges, shape) }, shape, treatments);
            fallen.AddRange(lines.Select(l => l.Through(next.Place.Map)));
            return reshaped;
        }

        // One edge for each ring of the bare shape, to be matched to what the treatments leave.
        static ImmutableArray<Edge> Unrolled(ImmutableArray<Edge> edges, Shape shape) =>
            [.. shape.Derive().Subpaths.Select((_, i) => i < edges.Length ? edges[i] : edges[^1] with { Origin = null })];

        Line ScaledLine(Line l) => l.Through(by) with { Origin = From(l.Origin) };

        Artwork ScaledArt(Artwork a) => a with { Map = a.Map.Then(by), Origin = From(a.Origin) };

        Origin? From(Origin? o) => o is null ? null : o with { Ink = o.Ink.Scaled(factor), Look = keys.GetValueOrDefault(o.Look, o.Look) };
    }
}

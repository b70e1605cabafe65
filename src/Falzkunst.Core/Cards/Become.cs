namespace Falzkunst.Core.Cards;

/// <summary>Names one ring of a piece's outline: "p3/2" is its third ring.</summary>
public static class RingId
{
    public static string Of(string pieceId, int ring) => string.Create(CultureInfo.InvariantCulture, $"{pieceId}/{ring}");

    /// <summary>The ids with those of rings as their pieces', each once.</summary>
    public static ImmutableArray<string> ToPieces(IEnumerable<string> ids) => [.. ids.Select(id => Read(id)?.PieceId ?? id).Distinct(StringComparer.Ordinal)];

    /// <summary>The piece and the ring; null where the id is no ring's.</summary>
    public static (string PieceId, int Ring)? Read(string id) => id.Split('/') is [var piece, var number]
        && int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var ring) ? (piece, ring) : null;
}

/// <summary>
/// Says what pieces, lines and holes are, whatever they came in as. A piece that becomes a hole or a line is taken off the card, and what it carried goes to
/// the paper below; a hole that becomes something else is paper again; what becomes a hole opens the smallest piece that it lies in. A piece that is only
/// printed is printed with all that was printed on it, on the smallest piece below that holds it, or the one that most of it lies on. Where there is no paper
/// for it, it stays as it is.
/// </summary>
/// <param name="Ids">Of pieces and lines, or of single rings as <see cref="RingId"/> writes them ("p3/1" is the first hole of p3).</param>
public sealed record Become(ImmutableArray<string> Ids, Meaning Meaning) : Edit
{
    /// <summary>Why, as it will stand beside each.</summary>
    public string Reason { get; init; } = Chosen;

    public override ImmutableArray<string> About => RingId.ToPieces(Ids);

    public override string Describe(Design before) => $"{Count(Ids.Length, "outline or line")}: {Meaning.Phrase()}";

    public override Design Apply(Design design)
    {
        // Of one piece the last ring first, so that the numbers of the others hold.
        var ordered = Ids.Distinct(StringComparer.Ordinal).OrderByDescending(id => RingId.Read(id)?.Ring ?? 0).ToList();
        var known = design.Lines.Select(l => l.Id).ToHashSet(StringComparer.Ordinal);
        var lines = ordered.Where(known.Contains).ToImmutableArray();
        foreach (var id in ordered)
        {
            if (RingId.Read(id) is var (pieceId, ring)) design = OfRing(design, pieceId, ring);
            else if (design.Piece(id) is { } piece) design = OfPiece(design, piece);
        }

        if (lines.IsEmpty) return design;
        if (Meaning is Meaning.Ground or Meaning.Sample or Meaning.Double) return new LeaveOut(lines).Apply(design);
        if (Meaning is not (Meaning.Paper or Meaning.Panel or Meaning.Hole)) return new SetLineOperation(lines, Meaning.ToOperation()).Apply(design);
        foreach (var id in lines)
        {
            if (design.Line(id) is not { } line || Closed(line.Path) is not { } outline) continue;
            if (Meaning != Meaning.Hole)
            {
                design = new MakePieces([id]).Apply(design);
                continue;
            }

            var without = new Remove([id]).Apply(design);
            design = Open(without, outline, line.Line.Origin, null) ?? design;
        }

        return design;
    }

    /// <summary>Pictures and lines that lie on no paper afterwards, words that can't be written otherwise any more, copies that nobody makes, and what is
    /// not printed because it hangs over.</summary>
    public override string? Loses(Design before)
    {
        if (Meaning is Meaning.Ground or Meaning.Sample or Meaning.Double or Meaning.Rest) return null;
        var (after, named) = (Apply(before), RingId.ToPieces(Ids).ToHashSet(StringComparer.Ordinal));
        var gone = before.Pieces.Where(p => after.Piece(p.Id) is null).ToList();
        var lost = new List<string>();
        var pictures = after.Pieces.Sum(p => p.Artwork.Length) - before.Pieces.Sum(p => p.Artwork.Length);
        if (pictures < 0) lost.Add($"{Count(-pictures, "picture")} would lie on no paper");
        var carried = before.Lines.Where(l => l.By is not null && !named.Contains(l.Id)).Select(l => l.Id).ToHashSet(StringComparer.Ordinal);
        var loose = after.Loose.Count(l => carried.Contains(l.Id));
        if (loose > 0) lost.Add($"{Count(loose, "line")} would lie on no paper");
        var words = before.Pieces.Where(p => p.Shape is Lettered && after.Piece(p.Id)?.Shape is not Lettered).Select(p => p.Id)
            .Concat(before.Lines.Where(l => l.Line.Words is not null && after.Line(l.Id)?.Line.Words is null).Select(l => l.Id)).ToImmutableArray();
        if (!words.IsEmpty) lost.Add($"{Names(before, words)} would be drawn, and can't be written otherwise any more");
        if (gone.Count(p => p.Number != default) is > 0 and var several) lost.Add($"{Count(several, "piece")} would not be made more than once any more");
        if (Meaning == Meaning.Printed)
        {
            var over = gone.Count(p => Host(before, p) is { } host && !host.Carries(p.OnCard.Transform(host.Place.Map.Inverse())));
            if (over > 0) lost.Add($"of {Count(over, "piece")} only what lies on the paper below would be printed");
        }

        return lost.Count == 0 ? null : $"{char.ToUpperInvariant(lost[0][0])}{string.Join("; ", lost)[1..]}.";
    }

    private Design OfPiece(Design design, Piece piece)
    {
        if (Meaning == Meaning.Printed) return Host(design, piece) is { } host ? Printed(design, piece, host) : design;
        if (Meaning is Meaning.Paper or Meaning.Panel) return new Settle([piece.Id]).Apply(design);
        if (Meaning is Meaning.Ground or Meaning.Sample or Meaning.Double or Meaning.Rest) return new LeaveOut([piece.Id]).Apply(design);
        var map = piece.Place.Map;
        var rings = piece.OnCard.Parts().ToList();
        var off = design with
        {
            AllPieces = design.AllPieces.RemoveAll(p => p.Id == piece.Id),
            AllLoose = design.AllLoose.AddRange(piece.AllLines.Select(l => l.Through(map))),
            AllLooseArtwork = design.AllLooseArtwork.AddRange(piece.AllArtwork.Select(a => a with { Map = a.Map.Then(map) })),
        };
        off = off with { AllPlies = Remove.InUse(off.AllPlies, off.AllPieces) };
        var origin = piece.Origin?.Settled(Reason);
        if (Meaning == Meaning.Hole)
        {
            if (Open(off, rings[0], piece.Origin, piece.PlyId) is not { } opened) return design;
            // What lay in its own holes is paper there again.
            foreach (var (ring, i) in rings.Select((r, i) => (r, i)).Skip(1).Where(t => !piece.IsOuter(t.i)))
                opened = WithPiece(opened, new([ring.Subpaths[0].Reverse()]), piece with { Label = $"In {piece.Label}", Origin = origin });
            return Home(opened, off.AllLoose.Skip(design.AllLoose.Length).Select(l => l.Id));
        }

        // A tool follows each ring by itself.
        foreach (var path in rings)
        {
            off = off.WithId("l", out var id);
            off = off with
            {
                AllLoose = off.AllLoose.Add(new()
                {
                    Id = id,
                    Label = piece.Label,
                    Path = path,
                    Operation = Meaning.ToOperation(),
                    Pen = piece.Origin?.Ink.Stroke?.Colour,
                    Origin = origin
                }),
            };
        }

        return Home(off, off.AllLoose.Skip(design.AllLoose.Length).Select(l => l.Id));
    }

    /// <summary>What a piece is printed on: of what lies below it the smallest that holds it, or what most of it lies on; null where nothing does.</summary>
    private static Piece? Host(Design design, Piece piece)
    {
        var ply = design.PlyNumber(piece.PlyId);
        var below = design.Papers.TakeWhile(p => p.Id != piece.Id).Where(p => design.PlyNumber(p.PlyId) == ply)
            .Concat(design.Papers.Where(p => design.PlyNumber(p.PlyId) < ply)).Where(p => p.OnCard.Bounds.Touches(piece.OnCard.Bounds)).ToList();
        if (Holder(below, piece.OnCard) is { } holder) return holder;
        var own = Regions.Region.Of(piece.OnCard);
        return below.Select(p => (Piece: p, Common: own.Overlap(Regions.Region.Of(p.OnCard)).AreaMm2)).Where(t => t.Common > LeastPrintedMm2)
            .OrderByDescending(t => t.Common).ThenByDescending(t => design.PlyNumber(t.Piece.PlyId)).FirstOrDefault().Piece;
    }

    /// <summary>Less than that is not seen.</summary>
    private const double LeastPrintedMm2 = 0.1;

    /// <summary>A piece as ink in the colour of its paper, with what was printed on it above that, on top of what is printed on another.</summary>
    private Design Printed(Design design, Piece piece, Piece host)
    {
        var (map, order) = (piece.Place.Map.Then(host.Place.Map.Inverse()), 0);
        var (lines, artwork) = (host.AllLines, host.AllArtwork);
        // What a person added lies on top, and now below this: from here on each has its place in the order.
        foreach (var (art, line) in host.Printed.Where(p => p.Art is not { IsTiled: true }))
        {
            order = Math.Max(order, (art?.Origin ?? line?.Origin)?.Order ?? 0) + 1;
            if (art is { Origin: null }) artwork = artwork.Replace(art, art with { Origin = PrintTogether.At(order) });
            if (line is { Origin: null }) lines = lines.Replace(line, line with { Origin = PrintTogether.At(order) });
        }

        var origin = (piece.Origin?.Settled(Reason) ?? PrintTogether.At(0)) with { Order = ++order };
        var path = piece.Outline.Transform(map);
        if (!host.Carries(path)) path = Within(path, host.Outline);
        // Paper of which nothing is known is not seen below a picture.
        if (!path.IsEmpty && (piece.Artwork.IsEmpty || piece.Origin is not null || piece.Colour != Fresh.Paper))
        {
            design = design.WithId("l", out var id);
            lines = lines.Add(new()
            {
                Id = id,
                Label = piece.Label,
                Path = path,
                Operation = Operation.Print,
                Pen = piece.Origin?.Ink.Stroke?.Colour,
                // What nobody drew is printed in the colour that its paper had.
                PrintedAs = piece.Origin is null ? new(piece.Colour, FillRule.EvenOdd, null) : null,
                Origin = origin,
            });
        }

        var orders = piece.Printed.Select(p => p.Art?.Id ?? p.Line!.Id).Select((printed, i) => (printed, order + 1 + i)).ToDictionary();
        // What was left out goes along as it is, to be put back.
        artwork = artwork.AddRange(piece.AllArtwork
            .Select(a => a.LeftOut is not null ? a : PrintTogether.Within(piece, a) with { Origin = At(a.Origin, a.Id) })
            .Select(a => a with { Map = a.Map.Then(map) }));
        var on = host with { AllLines = lines, AllArtwork = artwork };
        var fallen = new List<Line>();
        foreach (var line in piece.AllLines)
        {
            var its = line.Through(map) with { Held = null };
            if (its is { LeftOut: null, Operation: Operation.Print }) its = its with { Origin = At(its.Origin, its.Id) };
            if (on.Carries(its.Path)) on = on with { AllLines = on.AllLines.Add(its) };
            else fallen.Add(its.Through(host.Place.Map));
        }

        design = design with { AllPieces = design.AllPieces.Replace(host, Carrying.WithFolds(on)).Remove(piece), AllLoose = design.AllLoose.AddRange(fallen) };
        return Home(design with { AllPlies = Remove.InUse(design.AllPlies, design.AllPieces) }, fallen.Select(l => l.Id));

        Origin At(Origin? was, string id) => (was ?? PrintTogether.At(0)) with { Order = orders[id] };

        static VectorPath Within(VectorPath path, VectorPath paper)
        {
            try
            {
                return VectorPath.Joined(Regions.Together.Overlap([path, paper]));
            }
            catch (Regions.TangledException)
            {
                return path;
            }
        }
    }

    private Design OfRing(Design design, string pieceId, int ring)
    {
        if (design.Piece(pieceId) is not { } piece || ring <= 0 || ring >= piece.Edges.Length || piece.IsOuter(ring)) return design;
        if (Meaning == Meaning.Hole) return new Settle([RingId.Of(pieceId, ring)]).Apply(design);
        var path = new VectorPath([piece.OnCard.Subpaths[ring]]);
        var origin = piece.Edges[ring].Origin?.Settled(Reason);
        var closed = piece with
        {
            Shape = new Drawn(new(piece.Outline.Subpaths.RemoveAt(ring))),
            Treatments = [],
            Edges = piece.Edges.RemoveAt(ring),
        };
        design = Carrying.TakeIn(design.ChangePieces([pieceId], _ => closed), [pieceId]);
        if (Meaning is Meaning.Rest or Meaning.Ground or Meaning.Sample or Meaning.Double) return design;
        if (Meaning is Meaning.Paper or Meaning.Panel)
        {
            var own = origin is null ? null : origin with { IsHole = false };
            return WithPiece(design, Closed(path)!, piece with { Label = $"On {piece.Label}", Origin = own });
        }

        design = design.WithId("l", out var id);
        design = design with
        {
            AllLoose = design.AllLoose.Add(new()
            {
                Id = id,
                Path = path,
                Operation = Meaning.ToOperation(),
                Pen = origin?.Ink.Stroke?.Colour,
                Origin = origin
            })
        };
        return Home(design, [id]);
    }

    internal const string Chosen = "chosen by you";

    /// <summary>A path as the outline of paper: one ring, closed, clockwise on the screen; null where it encloses nothing.</summary>
    private static VectorPath? Closed(VectorPath path)
    {
        if (path.Subpaths.Length != 1) return null;
        var sub = path.Subpaths[0] with { Closed = true };
        var area = Polygons.SignedArea(new VectorPath([sub]).Rings[0]);
        return Math.Abs(area) < 1e-6 ? null : new([area > 0 ? sub : sub.Reverse()]);
    }

    /// <summary>Makes a hole in the smallest piece whose paper holds the outline; null where none does.</summary>
    /// <param name="belowPly">Only pieces of this ply and those below are looked at; null looks at all.</param>
    private Design? Open(Design design, VectorPath outline, Origin? origin, string? belowPly)
    {
        var plies = design.AllPlies.Select((y, i) => (y.Id, i)).ToDictionary(t => t.Id, t => t.i, StringComparer.Ordinal);
        var top = belowPly is null ? int.MaxValue : plies.GetValueOrDefault(belowPly, int.MaxValue);
        if (Holder(design.Pieces.Where(p => plies[p.PlyId] <= top), outline) is not { } host) return null;
        var ring = outline.Transform(host.Place.Map.Inverse());
        var inside = new VectorPath([Polygons.SignedArea(ring.Rings[0]) < 0 ? ring.Subpaths[0] : ring.Subpaths[0].Reverse()]);
        var edge = new Edge(Operation.Cut, origin is { } o ? o.Settled(Reason) with { IsHole = true } : null);
        var next = host with { Shape = new Drawn(host.Outline.With(inside)), Treatments = [], Edges = host.Edges.Add(edge) };
        // What lay where the hole is falls out of it.
        var gone = next.AllLines.RemoveAll(l => next.Carries(l.Path));
        next = Carrying.Without(next, gone.Select(l => l.Id));
        var fallen = gone.Select(l => l.Through(host.Place.Map));
        return design.ChangePieces([host.Id], _ => next) with { AllLoose = design.AllLoose.AddRange(fallen) };
    }

    /// <summary>The smallest piece whose paper holds a path that lies on the card; null where none does.</summary>
    private static Piece? Holder(IEnumerable<Piece> pieces, VectorPath path) => pieces
        .Where(p => p.OnCard.Bounds.Grown(Tolerances.Carried).Holds(path.Bounds) && p.Carries(path.Transform(p.Place.Map.Inverse())))
        .MinBy(p => p.OnCard.Bounds.Area);

    /// <summary>The design with one more piece, on top of the ply of another that it is like.</summary>
    private static Design WithPiece(Design design, VectorPath onCard, Piece like)
    {
        if (design.AllPlies.All(y => y.Id != like.PlyId)) design = design with { AllPlies = design.AllPlies.Add(new(like.PlyId, like.Label, like.Colour)) };
        design = design.WithId("p", out var id);
        var piece = new Piece
        {
            Id = id,
            Label = like.Label,
            PlyId = like.PlyId,
            StockId = like.StockId,
            Colour = like.Colour,
            Shape = new Drawn(onCard),
            Edges = [new(Operation.Cut)],
            Origin = like.Origin,
        };
        return Carrying.TakeIn(design with { AllPieces = design.AllPieces.Add(piece) }, [id]);
    }

    /// <summary>Gives loose lines to the smallest pieces that hold them.</summary>
    private static Design Home(Design design, IEnumerable<string> lineIds)
    {
        foreach (var id in lineIds.ToList())
        {
            if (design.Loose.FirstOrDefault(l => l.Id == id) is not { } line || Holder(design.Pieces, line.Path) is not { } host) continue;
            design = CarryBy.Given(design, line.Through(host.Place.Map.Inverse()), host);
        }

        return design;
    }
}

/// <summary>Says that things are what they came in as: nothing more is asked about them.</summary>
/// <param name="Ids">As of <see cref="Become"/>.</param>
public sealed record Settle(ImmutableArray<string> Ids) : Edit
{
    public override ImmutableArray<string> About => RingId.ToPieces(Ids);

    public override string Describe(Design before) => "Leave it as it came in";

    public override Design Apply(Design design)
    {
        var ids = Ids.ToHashSet(StringComparer.Ordinal);
        return design with
        {
            AllPieces = design.AllPieces.Change(p =>
            {
                if (p.LeftOut is not null) return p;
                var origin = ids.Contains(p.Id) ? Settled(p.Origin) : p.Origin;
                var lines = p.AllLines.Change(Line);
                var edges = p.Edges;
                for (var i = 1; i < edges.Length; i++)
                {
                    if (edges[i].Origin is not { Or: not null } || !ids.Contains(RingId.Of(p.Id, i))) continue;
                    edges = edges.SetItem(i, edges[i] with { Origin = Settled(edges[i].Origin) });
                }

                return ReferenceEquals(origin, p.Origin) && lines == p.AllLines && edges == p.Edges ? p : p with
                {
                    Origin = origin,
                    AllLines = lines,
                    Edges = edges
                };
            }),
            AllLoose = design.AllLoose.Change(Line),
        };

        Line Line(Line l)
        {
            if (l.LeftOut is not null || !ids.Contains(l.Id)) return l;
            var origin = Settled(l.Origin);
            return ReferenceEquals(origin, l.Origin) ? l : l with { Origin = origin };
        }

        static Origin? Settled(Origin? origin) => origin is { Or: not null } ? origin with { Or = null } : origin;
    }
}

/// <summary>Swaps which of two stacked pieces lies below: they change their plies; on one ply, their order.</summary>
public sealed record SwapBelow(string OneId, string OtherId) : Edit
{
    public override ImmutableArray<string> About => [OneId, OtherId];

    public override string Describe(Design before) => $"Swap {before.Piece(OneId)?.Label} and {before.Piece(OtherId)?.Label}";

    public override Design Apply(Design design)
    {
        if (design.Piece(OneId) is not { } one || design.Piece(OtherId) is not { } other || OneId == OtherId) return design;
        if (one.PlyId != other.PlyId) return design.ChangePieces([OneId, OtherId], p => p with { PlyId = p.Id == OneId ? other.PlyId : one.PlyId });
        int i = design.AllPieces.IndexOf(one), j = design.AllPieces.IndexOf(other);
        return design with { AllPieces = design.AllPieces.SetItem(i, other).SetItem(j, one) };
    }
}

/// <summary>Says that lines belong to a piece: what of them lies in its paper goes with it from now on, the rest is cut off.</summary>
public sealed record CarryBy(ImmutableArray<string> LineIds, string PieceId) : Edit
{
    public override ImmutableArray<string> About => LineIds.Add(PieceId);

    public override string Describe(Design before) => $"{Count(LineIds.Length, "line")} belong to {before.Piece(PieceId)?.Label}";

    public override Design Apply(Design design)
    {
        foreach (var id in LineIds)
        {
            if (design.Piece(PieceId) is not { } piece || design.Line(id) is not { } laid || laid.CarriedBy == PieceId) continue;
            var line = (laid.By is { } carrier ? laid.Line.Through(carrier.Place.Map) : laid.Line).Through(piece.Place.Map.Inverse());
            if (!piece.Carries(line.Path))
            {
                var kept = Regions.Region.Of(piece.Outline).Within(line.Path);
                if (kept.IsEmpty) continue;
                // The longest stretch is the line; a fold is not taken apart by a window.
                line = line with { Path = kept.Parts().MaxBy(p => p.Length)! };
            }

            var loose = laid.By is not { } by ? design
                : design.ChangePieces([by.Id], p => Carrying.Without(p, [id])) with { AllLoose = design.AllLoose.Add(laid.Line.Through(by.Place.Map)) };
            design = Given(loose, line, loose.Piece(PieceId)!);
        }

        return design;
    }

    /// <summary>Gives a loose line to a piece.</summary>
    /// <param name="line">As it lies in the piece's coordinates.</param>
    internal static Design Given(Design design, Line line, Piece to) => design.ChangePieces([to.Id],
        p => Carrying.WithFolds(p with { AllLines = p.AllLines.Add(line) })) with
    { AllLoose = design.AllLoose.RemoveAll(l => l.Id == line.Id) };
}

namespace Falzkunst.Core.Cards;

/// <summary>What stays with a piece when its outline changes. The one place that decides it.</summary>
internal static class Carrying
{
    /// <summary>
    /// The piece with another shape or other treatments. Each ring keeps what happened along the ring of its kind (outer edge or hole) that lay nearest to it;
    /// lines and pictures stay where they were
    /// on the card. What no longer lies in the paper falls out: lines by more than <see cref="Tolerances.Carried"/>, pictures that touch it nowhere.
    /// </summary>
    /// <returns>The piece, with the lines and pictures that fell out of it, in its coordinates.</returns>
    public static (Piece Piece, ImmutableArray<Line> Lines, ImmutableArray<Artwork> Artwork) Reshape(Piece piece, Shape shape,
        ImmutableArray<Treatment> treatments)
    {
        var next = piece with { Shape = shape, Treatments = treatments };
        next = next with { Edges = EdgesOf(next, [piece]) };
        var lines = next.AllLines.RemoveAll(l => next.Carries(l.Path));
        var artwork = next.AllArtwork.RemoveAll(a => a.LiesIn(next.Outline.Bounds));
        return (Without(next, lines.Select(l => l.Id)) with { AllArtwork = next.AllArtwork.RemoveAll(artwork.Contains) }, lines, artwork);
    }

    /// <summary>Gives a piece of the card another shape or other treatments; what falls out of it becomes loose where it lay.</summary>
    public static Design Reshape(Design design, Piece piece, Shape shape, ImmutableArray<Treatment> treatments)
    {
        var (next, lines, artwork) = Reshape(piece, shape, treatments);
        var map = next.Place.Map;
        return design.ChangePieces([next.Id], _ => next) with
        {
            AllLoose = design.AllLoose.AddRange(lines.Select(l => l.Through(map))),
            AllLooseArtwork = design.AllLooseArtwork.AddRange(artwork.Select(a => a with { Map = a.Map.Then(map) })),
        };
    }

    /// <summary>
    /// Maps lines and what is printed to where they go, loose and carried ones. A line that leaves its paper is carried by the topmost piece that it lies in
    /// then, or is loose; a picture stays with its piece. What goes along with a piece that is named too stays.
    /// </summary>
    /// <param name="onCard">A map of the card.</param>
    public static Design MoveCarried(Design design, ImmutableArray<string> ids, Affine onCard)
    {
        var gone = new List<Line>();
        var next = design with
        {
            AllLoose = design.AllLoose.Change(l => IsMoved(l, l.Id) ? l.Through(onCard) : l),
            AllLooseArtwork = design.AllLooseArtwork.Change(a => IsMoved(a, a.Id) ? a.Through(onCard) : a),
            AllPieces = design.AllPieces.Change(p =>
            {
                if (p.LeftOut is not null || ids.Contains(p.Id)) return p;
                var (hasArt, hasLines) = (p.AllArtwork.Any(a => IsMoved(a, a.Id)), p.AllLines.Any(l => IsMoved(l, l.Id)));
                if (!hasArt && !hasLines) return p;
                var own = p.Place.IsOwn ? onCard : p.Place.Map.Then(onCard).Then(p.Place.Map.Inverse());
                if (hasArt) p = p with { AllArtwork = p.AllArtwork.Change(a => IsMoved(a, a.Id) ? a.Through(own) : a) };
                if (!hasLines) return p;
                var moved = p with { AllLines = p.AllLines.Change(l => IsMoved(l, l.Id) ? l.Through(own) : l) };
                var out_ = moved.AllLines.RemoveAll(l => !IsMoved(l, l.Id) || moved.Carries(l.Path));
                gone.AddRange(out_.Select(l => l.Through(p.Place.Map)));
                return WithFolds(Without(moved, out_.Select(l => l.Id)));
            }),
        };
        foreach (var line in gone) next = Fresh.Lay(next, line);
        return next;

        bool IsMoved(ICanBeLeftOut thing, string id) => thing.LeftOut is null && ids.Contains(id);
    }

    /// <summary>The piece without some of its lines, and without what was only said of them.</summary>
    public static Piece Without(Piece piece, IEnumerable<string> lineIds)
    {
        var gone = lineIds.ToHashSet(StringComparer.Ordinal);
        return gone.Count == 0 ? piece
            : piece with { AllLines = piece.AllLines.RemoveAll(l => gone.Contains(l.Id)), Folds = piece.Folds.RemoveAll(f => gone.Contains(f.LineId)) };
    }

    /// <summary>
    /// Takes loose lines of the card in: those that lie in one of the named pieces, the last of them first.
    /// </summary>
    public static Design TakeIn(Design design, IReadOnlyList<string> pieceIds)
    {
        foreach (var id in pieceIds.Reverse())
        {
            if (design.Piece(id) is not { } piece) continue;
            var back = piece.Place.Map.Inverse();
            var taken = design.Loose.Where(l => piece.Carries(piece.Place.IsOwn ? l.Path : l.Path.Transform(back))).ToImmutableArray();
            if (taken.IsEmpty) continue;
            design = design.ChangePieces([id],
                p => p with { AllLines = p.AllLines.AddRange(taken.Select(l => l.Through(back))) });
            design = design with { AllLoose = design.AllLoose.RemoveAll(taken.Contains) };
        }

        return design;
    }

    /// <summary>For each ring of a piece what happened along the ring of its kind that lay nearest to it, among those of the pieces that it came
    /// from.</summary>
    internal static ImmutableArray<Edge> EdgesOf(Piece next, IReadOnlyList<Piece> before)
    {
        var old = before.SelectMany(p => p.OnCard.Parts().Select((ring, k) => (Outer: p.IsOuter(k), ring.Bounds, Edge: p.Edges[k]))).ToList();
        return [.. next.OnCard.Parts().Select((ring, i) =>
        {
            var (outer, box) = (next.IsOuter(i), ring.Bounds);
            var nearest = old.Where(o => o.Outer == outer)
                .OrderBy(o => o.Bounds.Centre.DistanceTo(box.Centre) + Math.Abs(o.Bounds.Width - box.Width)).Take(1).ToList();
            return nearest.Count > 0 ? nearest[0].Edge : before[0].Edges[0] with { Origin = null };
        })];
    }

    /// <summary>
    /// Rings that were drawn as outlines of their own are holes where they are cut, and lines on the paper where they are not. Settles which, after operations
    /// changed; a shape that
    /// was made or treated becomes drawn where one of its rings goes.
    /// </summary>
    public static Design SettleHoles(Design design, IEnumerable<string> pieceIds)
    {
        foreach (var id in pieceIds.ToList())
        {
            if (design.Piece(id) is not { } piece) continue;
            var leaves = Enumerable.Range(0, piece.Edges.Length).Where(i => piece.Edges[i] is { Operation: not Operation.Cut, Origin.IsHole: true }).ToList();
            var returns = piece.AllLines.Where(l => l is { Operation: Operation.Cut, Origin.IsHole: true, LeftOut: null, IsClosed: true }
                && Polygons.SignedArea(l.Path.Rings[0]) < 0).ToImmutableArray();
            if (leaves.Count == 0 && returns.IsEmpty) continue;
            var rings = piece.Edges.Select((e, i) => (Edge: e, Ring: piece.Outline.Subpaths[i], Order: e.Origin?.Order ?? int.MinValue)).ToList();
            var lines = piece.AllLines.ToBuilder();
            foreach (var i in leaves)
            {
                design = design.WithId("l", out var line);
                lines.Add(new()
                {
                    Id = line,
                    Path = new([rings[i].Ring]),
                    Operation = rings[i].Edge.Operation,
                    Origin = rings[i].Edge.Origin,
                    Pen = rings[i].Edge.Origin?.Ink.Stroke?.Colour,
                });
            }

            foreach (var line in returns)
                rings.Add((new(Operation.Cut, line.Origin), line.Path.Subpaths[0], line.Origin!.Order));
            var kept = rings.Where((r, i) => !leaves.Contains(i)).Select((r, i) => (r.Edge, r.Ring, Order: i == 0 ? (long)int.MinValue - 1 : r.Order))
                .OrderBy(r => r.Order).ToList();
            var next = Without(piece with { AllLines = lines.ToImmutable() }, returns.Select(l => l.Id)) with
            {
                Shape = new Drawn(new([.. kept.Select(r => r.Ring)])),
                Treatments = [],
                Edges = [.. kept.Select(r => r.Edge)],
            };
            design = design.ChangePieces([id], _ => next);
        }

        return design;
    }

    /// <summary>Lines that a person or recognition folds become folds of their piece: scored or perforated, and from edge to edge of it. A fold stays one when
    /// it rests.</summary>
    public static Piece WithFolds(Piece piece)
    {
        var fresh = piece.AllLines.Where(l => l.Operation is Operation.Score or Operation.Perforate && piece.Folds.All(f => f.LineId != l.Id)
            && Cards.Folds.SpanOf(l.Path, piece.Outline) is not null).ToList();
        return fresh.Count == 0 ? piece : piece with { Folds = piece.Folds.AddRange(fresh.Select(l => new Fold(l.Id, FoldSide.Valley))) };
    }
}

using Falzkunst.Core.Files;

namespace Falzkunst.Core.Cards;

/// <summary>Says that separate lines are one outline: they are joined from end to nearest end, gaps closed straight, and the outline is a piece.</summary>
public sealed record JoinLines(ImmutableArray<string> LineIds) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"Join {Count(LineIds.Length, "line")} to an outline";

    /// <summary>Where two straight sides would meet if they went on: the corner that was left out between them. Null where that is no nearer than twice their
    /// gap.</summary>
    private static Point? Corner(Point end, Point before, Subpath next)
    {
        if (next.Segments.IsEmpty || next.Segments[0].IsCurve) return null;
        Point u = end - before, v = next.Start - next.Segments[0].End, gap = next.Start - end;
        var cross = u.Cross(v);
        if (Math.Abs(cross) < 0.1 * u.Norm * v.Norm) return null;
        double t = gap.Cross(v) / cross, s = gap.Cross(u) / cross;
        return t > 0 && s > 0 && t * u.Norm < 2 * gap.Norm && s * v.Norm < 2 * gap.Norm ? end + u * t : null;
    }

    /// <summary>Whether the ends of lines lie so near each other, for how long they are, that they are likely to be one outline: no gap over 5 mm, and all gaps
    /// together under a tenth.</summary>
    internal static bool IsLikely(IReadOnlyList<LaidLine> lines)
    {
        const double widest = 5, share = 0.1;
        if (lines.Count is < 2 or > 100 || lines.Any(l => l.Path.Subpaths is not [{ Closed: false }])) return false;
        var (_, gaps) = Chained(lines);
        return gaps.Max() <= widest && gaps.Sum() < share * lines.Sum(l => l.Path.Length.Mm);
    }

    /// <summary>The lines from end to nearest end as one outline, and the gaps that were closed.</summary>
    private static (VectorPath Outline, List<double> Gaps) Chained(IReadOnlyList<LaidLine> lines)
    {
        var left = lines.Select(l => l.Path.Subpaths[0]).ToList();
        var gaps = new List<double>();
        var start = left[0].Start;
        var (segments, end) = (left[0].Segments.ToBuilder(), left[0].End);
        left.RemoveAt(0);
        while (left.Count > 0)
        {
            var next = left.MinBy(s => Math.Min(s.Start.DistanceTo(end), s.End.DistanceTo(end)))!;
            left.Remove(next);
            if (next.End.DistanceTo(end) < next.Start.DistanceTo(end)) next = next.Reverse();
            gaps.Add(next.Start.DistanceTo(end));
            if (gaps[^1] > Tolerances.Closes)
            {
                if (Corner(end, segments.Count > 1 ? segments[^2].End : start, next) is { } corner) segments.Add(Segment.Line(corner));
                segments.Add(Segment.Line(next.Start));
            }

            segments.AddRange(next.Segments);
            end = next.End;
        }

        gaps.Add(end.DistanceTo(start));
        if (gaps[^1] > Tolerances.Closes && segments.Count > 1 && Corner(end, segments[^2].End, new(start, [.. segments], false)) is { } last)
            segments.Add(Segment.Line(last));
        return (new([new(start, segments.ToImmutable(), true)]), gaps);
    }

    /// <summary>The design as it is where the lines enclose nothing.</summary>
    public override Design Apply(Design design)
    {
        var lines = LineIds.Distinct(StringComparer.Ordinal).Select(design.Line).OfType<LaidLine>().Where(l => l.Path.Subpaths is [{ Closed: false }]).ToList();
        if (lines.Count < 2) return design;
        // The first line becomes the outline, and that a piece.
        var (outline, _) = Chained(lines);
        if (Math.Abs(outline.SignedAreaMm2) < 1e-6) return design;
        var first = lines[0];
        design = new Remove([.. lines.Select(l => l.Id)]).Apply(design);
        design = design with { AllLoose = design.AllLoose.Add(first.Line with { Path = outline, Operation = Operation.Cut }) };
        return new MakePieces([first.Id]).Apply(design);
    }
}

/// <summary>Says that lines on one straight line are one fold: the first reaches from the first end to the last, and the others go.</summary>
public sealed record JoinFolds(ImmutableArray<string> LineIds) : Edit
{
    private const double OffLineMm = 0.5;

    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"Join {Count(LineIds.Length, "line")} to one fold";

    /// <summary>The design as it is where they do not lie on one line, or no paper lies between them.</summary>
    public override Design Apply(Design design)
    {
        var lines = LineIds.Distinct(StringComparer.Ordinal).Select(design.Line).OfType<LaidLine>().ToList();
        if (lines.Count < 2 || lines.Exists(l => !Folds.IsStraight(l.Path, out _, out _))) return design;
        var ends = lines.SelectMany(l => new[] { l.Path.Subpaths[0].Start, l.Path.Subpaths[0].End }).ToList();
        var longest = lines.MaxBy(l => l.Path.Length)!.Path.Subpaths[0];
        var along = longest.End - longest.Start;
        Point a = ends.MinBy(p => along.Dot(p)), b = ends.MaxBy(p => along.Dot(p));
        if (ends.Exists(p => p.DistanceToSegment(a, b) > OffLineMm)) return design;
        var first = lines.Find(l => l.By is not null) ?? lines[0];
        var path = VectorPath.Polyline(a, b);
        if (first.By is { } by)
        {
            path = path.Transform(by.Place.Map.Inverse());
            if (!by.Carries(path)) return design;
        }

        design = new Remove([.. lines.Where(l => l != first).Select(l => l.Id)]).Apply(design);
        var operation = lines.Exists(l => l.Operation == Operation.Perforate) ? Operation.Perforate : Operation.Score;
        design = design.ChangeLines([first.Id],
            (l, _) => l with { Path = path, Operation = operation, Origin = l.Origin?.Settled(Become.Chosen) });
        return first.By is null ? design : design.ChangePieces([first.By.Id], Carrying.WithFolds);
    }
}

/// <summary>Says that pieces which lie edge on edge are the panels of one base: they become one piece, folded where they met.</summary>
public sealed record JoinPanels(ImmutableArray<string> PieceIds) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Join {Count(PieceIds.Length, "panel")} to one base";

    /// <summary>Groups that do not touch become a base each; a piece without a neighbour stays.</summary>
    public override Design Apply(Design design)
    {
        var pieces = PieceIds.Distinct(StringComparer.Ordinal).Select(design.Piece).OfType<Piece>().ToList();
        var sides = pieces.SelectMany(p => Sides(p).Select(s => (Piece: p, Side: s))).ToList();
        foreach (var face in StrokeFaces.Find(sides.ConvertAll(s => s.Side), ReadingWork.Unlimited))
        {
            var panels = face.Members.Select(m => sides[m].Piece).Distinct().ToList();
            if (panels.Count < 2) continue;
            design = Joined(design, panels, face);
        }

        return design;
    }

    private static Design Joined(Design design, List<Piece> panels, EnclosedFace face)
    {
        var first = panels[0];
        var back = first.Place.Map.Inverse();
        var outline = new VectorPath([face.Outline]);
        outline = new([Polygons.SignedArea(outline.Rings[0]) > 0 ? face.Outline : face.Outline.Reverse()]);
        var holes = panels.SelectMany(p => p.OnCard.Subpaths.Skip(1).Select((s, i) => (Ring: s, Edge: p.Edges[i + 1]))).ToList();
        // A common side was drawn once by each of its panels.
        var folds = new List<VectorPath>();
        foreach (var (_, line) in face.Across)
            if (!folds.Exists(f => PathLikeness.Same(f, line, 2 * Tolerances.Closes))) folds.Add(line);
        var carried = panels.SelectMany(p => p.AllLines.Select(l => l.Through(p.Place.Map).Through(back))).ToImmutableArray();
        var artwork = panels.SelectMany(p => p.AllArtwork.Select(a => a with { Map = a.Map.Then(p.Place.Map).Then(back) })).ToImmutableArray();
        foreach (var fold in folds)
        {
            design = design.WithId("l", out var id);
            carried = carried.Add(new()
            {
                Id = id,
                Path = fold.Transform(back),
                Operation = Operation.Score,
                Origin = first.Origin?.Settled(Become.Chosen),
            });
        }

        var gone = panels.Skip(1).Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
        var base_ = Carrying.WithFolds(first with
        {
            Shape = new Drawn(new VectorPath([outline.Subpaths[0], .. holes.Select(h => h.Ring)]).Transform(back)),
            Treatments = [],
            Edges = [first.Edges[0], .. holes.Select(h => h.Edge)],
            AllLines = carried,
            AllArtwork = artwork,
            Folds = [.. panels.SelectMany(p => p.Folds)],
            Origin = first.Origin?.Settled(Become.Chosen),
        });
        var all = design.AllPieces.RemoveAll(p => gone.Contains(p.Id)).Change(p => p.Id == first.Id ? base_ : p);
        return design with { AllPieces = all, AllPlies = Remove.InUse(design.AllPlies, all) };
    }

    private static IEnumerable<Subpath> Sides(Piece piece)
    {
        var ring = piece.OnCard.Subpaths[0];
        var from = ring.Start;
        foreach (var s in ring.Segments)
        {
            if (from.DistanceTo(s.End) > Tolerances.Same || s.IsCurve) yield return new(from, [s], false);
            from = s.End;
        }

        if (from.DistanceTo(ring.Start) > Tolerances.Same) yield return new(from, [Segment.Line(ring.Start)], false);
    }
}

namespace Falzkunst.Core.Cards;

/// <summary>
/// Bridges of paper that are left in a cut, so that what is cut out stays put until it is torn off: so many along each edge, evenly, and away from its corners.
/// </summary>
public sealed record CutBridges(int Number, Length Width)
{
    public static CutBridges Usual { get; } = new(4, Length.FromMm(0.5));

    /// <summary>A turn by more is a corner, in degrees.</summary>
    private const double Corner = 15;

    /// <summary>What is wrong with them, as a sentence; null where all is well.</summary>
    public string? Fault() => Number is >= 1 and <= 60 && Width.Mm is >= 0.1 and <= 20 ? null : "There are 1 to 60 bridges, each 0.1 to 20 mm wide.";

    /// <summary>The most of this width that an edge has: half of it has to be cut, or it does not come out.</summary>
    public int MostOn(Length edge) => (int)(edge.Mm / 2 / Width.Mm);

    /// <summary>What is cut of a closed edge, within 0.002 mm of it: one open path from each bridge to the next. Where they would take more than half of it,
    /// they are narrower.</summary>
    public ImmutableArray<VectorPath> Between(VectorPath edge)
    {
        var points = edge.Subpaths[0].Flatten(Tolerances.Measure);
        var length = VectorPath.PolylineLength(points, true);
        if (length <= Tolerances.Same) return [edge];
        var width = Math.Min(Width.Mm, length / 2 / Number);
        var corners = Corners(points);
        var middles = Enumerable.Range(0, Number).Select(i => Near((i + 0.5) * length / Number)).ToList();
        // Twice around, since the last cut goes over the start.
        var walk = new PathWalk([.. points, .. points, points[0]]);
        return [.. Enumerable.Range(0, Number).Select(i => VectorPath.Polyline([.. walk.Between(middles[i] + width / 2,
            (i + 1 < Number ? middles[i + 1] : middles[0] + length) - width / 2)]))];

        // Up to a quarter of the way to the next, where it is farthest from all corners.
        double Near(double at) => Enumerable.Range(-6, 13).Select(k => at + k * length / Number / 24)
            .OrderByDescending(p => Math.Round(Math.Min(width + 2, corners.Select(c => Math.Abs(Math.IEEERemainder(p - c, length)))
                .DefaultIfEmpty(length).Min()), 3))
            .ThenBy(p => Math.Abs(p - at)).First();
    }

    /// <summary>The bridges themselves, each as a line across from one cut to the next.</summary>
    public IEnumerable<VectorPath> Left(VectorPath edge)
    {
        var cut = Between(edge);
        return cut.Select((c, i) => VectorPath.Polyline(c.Subpaths[^1].End, cut[(i + 1) % cut.Length].Subpaths[0].Start));
    }

    /// <summary>Where the corners of a closed run of points are, by how far it is to there.</summary>
    private static List<double> Corners(List<Point> points)
    {
        var (corners, far) = (new List<double>(), 0.0);
        for (var i = 0; i < points.Count; i++)
        {
            Point before = points[i] - points[i == 0 ? points.Count - 1 : i - 1], after = points[(i + 1) % points.Count] - points[i];
            if (Math.Abs(Math.Atan2(before.Cross(after), before.Dot(after))) > Corner * Math.PI / 180) corners.Add(far);
            far += after.Norm;
        }

        return corners;
    }
}

/// <summary>Leaves bridges in the cuts around pieces, in their holes, or both; or none.</summary>
public sealed record SetBridges(ImmutableArray<string> PieceIds, CutBridges? Bridges, bool Outer, bool Holes) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"{(Bridges is null ? "No bridges" : $"{Count(Bridges.Number, "bridge")} of {Bridges.Width}")} along "
        + $"{(Outer && Holes ? "outlines" : Outer ? "outer edges" : "holes")} of {Count(PieceIds.Length, "piece")}";

    public override string? Refusal(Design before) => Bridges?.Fault();

    public override Design Apply(Design design) => Refusal(design) is not null ? design : design.ChangePieces(PieceIds, p =>
        p with { Edges = p.Edges.Change((e, i) => (p.IsOuter(i) ? Outer : Holes) && e.Bridges != Bridges ? e with { Bridges = Bridges } : e) });
}

namespace Falzkunst.Core.Reading.Svg;

// Markers: what is drawn at the corners of a line (SVG 2, section 11.6).
public sealed partial class SvgReader
{
    private void Markers(VectorPath path, SvgStyle style, Frame frame)
    {
        if (!style.Visible || (style.MarkerStart ?? style.MarkerMid ?? style.MarkerEnd) is null) return;
        var corners = Corners(path);
        for (var i = 0; i < corners.Count; i++)
        {
            var id = i == 0 ? style.MarkerStart : i == corners.Count - 1 ? style.MarkerEnd : style.MarkerMid;
            if (id is not null && _byId.TryGetValue(id, out var marker)
                && marker.Name == "marker") Marker(marker, corners[i].At, corners[i].Way, i == 0, style, frame);
        }
    }

    private void Marker(SvgNode marker, Point at, Point way, bool starts, SvgStyle style, Frame frame)
    {
        if (!_inUse.Add(marker)) return;
        var own = _styles.Compute(marker, new SvgStyle());
        double Of(string name, double otherwise) => SvgLengths.Read(marker[name], own, frame.Width) ?? otherwise;
        double w = Of("markerWidth", 3), h = Of("markerHeight", 3);
        var orient = marker["orient"] ?? "0";
        var turn = orient.StartsWith("auto", StringComparison.Ordinal)
            ? Angle.FromRadians(Math.Atan2(way.Y, way.X)) + (starts && orient == "auto-start-reverse" ? Angle.Half : Angle.Zero)
            : Angle.FromDegrees(SvgLengths.Read(orient, own, 0) ?? 0);
        var grow = marker["markerUnits"] == "userSpaceOnUse" ? 1 : SvgLengths.Read(style.StrokeWidth, style, frame.Width) ?? 1;
        if (w > 0 && h > 0 && grow > 0 && own.Displayed)
        {
            var fit = Fit(ViewBox(marker["viewBox"]), w, h, marker["preserveAspectRatio"]);
            var reference = fit.Apply(new(Of("refX", 0), Of("refY", 0)));
            var place = Affine.Move(-reference.X, -reference.Y).Then(Affine.Scale(grow, grow)).Then(Affine.Turn(turn)).Then(Affine.Move(at.X, at.Y))
                .Then(frame.ToMm);
            var first = _items.Count;
            foreach (var child in marker.Children) Walk(child, own,
                frame with { ToMm = fit.Then(place), Opacity = frame.Opacity * own.Opacity, Depth = frame.Depth + 1 });
            ClipToView(first, own, new(0, 0, w, h), place);
        }

        _inUse.Remove(marker);
    }

    /// <summary>The corners of a path in their order, each with the direction of a marker there: the mean of how the path comes and how it goes on.</summary>
    private static List<(Point At, Point Way)> Corners(VectorPath path)
    {
        var corners = new List<(Point, Point)>();
        foreach (var sub in path.Subpaths)
        {
            var steps = sub.Segments.ToList();
            if (sub.Closed && sub.End.DistanceTo(sub.Start) > Tolerances.Same) steps.Add(Segment.Line(sub.Start));
            var ways = new List<(Point Out, Point In)>();
            var from = sub.Start;
            foreach (var s in steps)
            {
                Span<Point> along = s.IsCurve ? [from, s.C1, s.C2, s.End] : [from, s.End];
                ways.Add((Heading(along, false), Heading(along, true)));
                from = s.End;
            }

            from = sub.Start;
            for (var i = 0; i <= steps.Count; i++)
            {
                Point? comes = i > 0 ? ways[i - 1].In : sub.Closed ? ways[^1].In : null, goes = i < steps.Count ? ways[i].Out : sub.Closed ? ways[0].Out : null;
                var way = (comes ?? default) + (goes ?? default);
                // Straight back: one of both is as good.
                corners.Add((from, way.Norm > 1e-9 ? way : comes ?? goes ?? new(1, 0)));
                if (i < steps.Count) from = steps[i].End;
            }
        }

        return corners;
    }

    /// <summary>The direction at the start or at the end of a segment, of length 1; control points that lie on one another say nothing.</summary>
    private static Point Heading(ReadOnlySpan<Point> along, bool atEnd)
    {
        for (var i = 1; i < along.Length; i++)
        {
            var d = atEnd ? along[^1] - along[^(i + 1)] : along[i] - along[0];
            if (d.Norm > 1e-12) return d * (1 / d.Norm);
        }

        return default;
    }
}

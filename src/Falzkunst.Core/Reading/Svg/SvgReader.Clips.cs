using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading.Recognition;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Reading.Svg;

// What shows of what was drawn: clip paths, masks, and the edges of views that let nothing hang over.
public sealed partial class SvgReader
{
    /// <summary>
    /// Cuts what was drawn since an item down to a clip path, or to a mask of plain shapes: light ones show, dark ones hide, in their order.
    /// </summary>
    /// <returns>False where a mask is no plain shape; then nothing was changed.</returns>
    private bool Clip(int first, SvgNode clip, Frame frame, bool isMask)
    {
        if (!_inUse.Add(clip)) return true;
        var box = Box.Empty;
        for (var i = first; i < _items.Count; i++) box = box.With(BoundsOf(_items[i]));
        var inside = clip[isMask ? "maskContentUnits" : "clipPathUnits"] == "objectBoundingBox"
            ? frame with { ToMm = Affine.Scale(box.Width, box.Height).Then(Affine.Move(box.Left, box.Top)), Width = 1, Height = 1 }
            : frame;
        if (clip["transform"] is { } t) inside = inside with { ToMm = SvgTransforms.Read(t).Then(inside.ToMm) };
        // A clip's shapes count by their form alone, black as they are without a style.
        var shapes = Drawn(() =>
        {
            foreach (var child in clip.Children)
                Walk(child, new SvgStyle { FillRule = (child["clip-rule"] ?? clip["clip-rule"]) == "evenodd" ? FillRule.EvenOdd : FillRule.NonZero },
                    inside with { Opacity = 1 });
        });
        _inUse.Remove(clip);
        if (isMask && !shapes.All(i => i is DrawnPath { Ink: { Stroke: null, IsPainted: false, Fill: { Alpha: > 0.98 } fill } } && IsPlain(fill))) return false;
        var region = Region.Empty;
        foreach (var shape in shapes.OfType<DrawnPath>())
        {
            if (shape.Ink.Fill is not { } fill) continue;
            foreach (var part in PartsOf(shape))
            {
                var area = Region.Of(part);
                region = isMask && fill.DistanceTo(Colour.White) > fill.DistanceTo(Colour.Black) ? region.TakeAway(area) : region.IsEmpty ? area
                    : region.Join(area);
            }
        }

        ClipTo(first, region);
        return true;

        static bool IsPlain(Colour c) => c.DistanceTo(Colour.White) < 20 || c.DistanceTo(Colour.Black) < 20;
    }

    /// <summary>
    /// Cuts what was drawn since an item down to an area. Filled shapes become what lies inside, with straight edges within the flattening tolerance where
    /// they are cut; lines likewise; pictures become see-through outside.
    /// </summary>
    private void ClipTo(int first, Region region)
    {
        var drawn = _items.Skip(first).ToList();
        while (_items.Count > first) _items.RemoveAt(_items.Count - 1);
        foreach (var item in drawn)
        {
            _work.Go();
            var bounds = BoundsOf(item);
            if (region.IsEmpty || !region.Bounds.Touches(bounds)) continue;
            if (region.Holds(Region.Of(VectorPath.Rectangle(bounds.Left, bounds.Top, Math.Max(bounds.Width, 1e-6), Math.Max(bounds.Height, 1e-6)))))
            {
                _items.Add(item);
                continue;
            }

            if (item is DrawnPicture picture)
            {
                if (Spend(picture) && Canvas.Clipped(picture.Bytes.AsSpan(), picture.Place, region.ToPaths()) is { } png) _items
                    .Add(picture with { MediaType = "image/png", Bytes = [.. png] });
                else _items.Add(picture);
                continue;
            }

            var path = (DrawnPath)item;
            if (path.Ink.Fill is not null)
            {
                var kept = PartsOf(path).SelectMany(p => Region.Of(p).Overlap(region).ToPaths()).SelectMany(p => p.Subpaths).ToImmutableArray();
                if (!kept.IsEmpty) _items.Add(path with { Path = new(kept), Ink = path.Ink with { Stroke = null, Rule = FillRule.NonZero } });
            }

            if (path.Ink.Stroke is not null && region.Within(path.Path) is { IsEmpty: false } lines) _items
                .Add(path with { Path = lines, Ink = path.Ink with { Fill = null }, Paint = null });
        }
    }

    private IReadOnlyList<VectorPath> PartsOf(DrawnPath item)
    {
        try
        {
            return Region.Parts(item.Path, item.Ink.Rule);
        }
        catch (TangledException)
        {
            Note(Recogniser.TangledCode, Recogniser.TangledText, item.Path.Bounds.Centre);
            return [];
        }
    }

    /// <summary>A view lets nothing hang over its edges, unless its style says so.</summary>
    private void ClipToView(int first, SvgStyle style, Box view, Affine toMm)
    {
        if (style.Overflows || _items.Count == first) return;
        var edge = VectorPath.Rectangle(view.Left, view.Top, view.Width, view.Height).Transform(toMm);
        var upright = toMm is { B: 0, C: 0 } or { A: 0, D: 0 };
        for (var i = first; i < _items.Count; i++)
        {
            if (upright && edge.Bounds.Grown(Tolerances.Same).Holds(BoundsOf(_items[i]))) continue;
            ClipTo(first, Region.Of(edge));
            return;
        }
    }

    /// <summary>What is drawn meanwhile, apart from everything else.</summary>
    private ImmutableArray<DrawnItem> Drawn(Action draw)
    {
        var before = _items;
        _items = ImmutableArray.CreateBuilder<DrawnItem>();
        try
        {
            draw();
            return _items.ToImmutable();
        }
        finally
        {
            _items = before;
        }
    }

    private static Box BoundsOf(DrawnItem item) => item is DrawnPath p ? p.Path.Bounds
        : VectorPath.Rectangle(0, 0, 1, 1).Transform(((DrawnPicture)item).Place).Bounds;

    /// <summary>Many programs clip everything to the page: one rectangle at least as large as what is shown changes nothing.</summary>
    private bool ClipsNothing(SvgNode clip, SvgStyle style, Frame frame)
    {
        if (clip["clipPathUnits"] == "objectBoundingBox") return false;
        foreach (var shape in clip.Children)
        {
            if (Shape(shape, style, frame) is not { IsEmpty: false } path || path.Subpaths[0].Segments.Any(s => s.IsCurve)) continue;
            var box = (shape["transform"] is { } t ? path.Transform(SvgTransforms.Read(t)) : path).Bounds;
            if (path.Subpaths[0].Segments.Length is 3 or 4 && box.Grown(1e-3).Holds(new Box(0, 0, frame.Width, frame.Height))) return true;
        }

        return false;
    }

}

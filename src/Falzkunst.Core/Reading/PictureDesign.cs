using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading.Recognition;
using Falzkunst.Core.Tracing;

namespace Falzkunst.Core.Reading;

/// <summary>Makes a design of a picture: traced, recognised like a drawing, and the picture kept as artwork where that is wanted.</summary>
public static class PictureDesign
{
    /// <param name="settings">How it is traced; null proposes it from what the picture looks like.</param>
    /// <exception cref="UnreadableFileException">The picture is damaged or too large, or there is nothing to trace.</exception>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static Design Read(ReadOnlyMemory<byte> file, TraceSettings? settings, ReadingLimits limits, CancellationToken cancel = default) =>
        Read(file, settings, limits, new ReadingWork(limits, cancel));

    /// <summary>The same as a part of reading something. Tracing is bounded by pixels and specks; what it finds counts as what is drawn.</summary>
    internal static Design Read(ReadOnlyMemory<byte> file, TraceSettings? settings, ReadingLimits limits, ReadingWork work)
    {
        // Of a part that was cut out every pixel counts; otherwise a very large picture has more than paper can show.
        var picture = Raster.Read(file.Span, limits, settings?.Crop is null ? Prepared.MostPixels : long.MaxValue);
        var why = "chosen by you";
        if (settings is null) (settings, why) = Propose(picture);
        var prepared = Prepared.From(picture, settings);
        var traced = Tracer.Trace(prepared, settings, work.Cancel);
        var items = ImmutableArray.CreateBuilder<DrawnItem>();
        foreach (var layer in traced.Layers)
        {
            items.Add(layer.IsStrokes
                ? new DrawnPath("", "draw", layer.Path,
                new(null, FillRule.EvenOdd,
                    new(layer.Colour, Length.FromMm(Math.Round(layer.StrokeWidth.Mm, 2)), LineCap.Round, LineJoin.Round, 4, [], Length.Zero)))
                : new DrawnPath("", "", layer.Path, new(layer.Colour, FillRule.EvenOdd, null)));
        }

        var scale = new ScaleFacts(traced.Dpi, traced.DpiIsKnown, settings.Dpi is not null ? $"chosen by you: {traced.Dpi:0.##} pixels in an inch"
            : traced.DpiIsKnown ? $"the picture says {traced.Dpi:0.##} pixels in an inch"
            : $"the picture does not say how large it is; {traced.Dpi:0} pixels in an inch was taken");
        var design = Recogniser.Recognise(new(traced.Width, traced.Height, scale, items.ToImmutable(), []), work);
        if (settings.KeepPicture)
        {
            // What is taken whole is printed from the very file, where that is possible.
            var isWhole = settings.Mode == TraceMode.Whole && prepared.Picture.IsAsStored;
            // What is printed is printed on white.
            design = design with
            {
                LastId = Math.Max(design.LastId, design.AllPieces.Length),
                AllPieces = [.. design.AllPieces
                    .Select((p, i) => p with { Colour = Fresh.Paper, AllArtwork = [Cut(prepared, p, i, isWhole ? file : default)] })],
                AllPlies = [.. design.AllPlies.Select(p => p with { Colour = Fresh.Paper })],
            };
        }

        return design with { Sources = [design.Sources[0] with { Tracing = new(settings, why, traced.Threshold, traced.Nodes) }] };
    }

    /// <summary>The part of the picture that a piece carries: what lies beyond its edge is ground, and see-through; the bleed is made of what is
    /// within.</summary>
    /// <param name="file">The picture's own bytes where all of it is carried; empty where a part is.</param>
    private static Artwork Cut(Prepared prepared, Piece piece, int index, ReadOnlyMemory<byte> file)
    {
        const double AroundMm = 0.5;
        var origin = new Origin("", Ink.None, piece.Origin!.Order, file.IsEmpty ? "its part of the picture" : "the whole picture")
        { Source = piece.Origin.Source };
        if (!file.IsEmpty) return new($"a{index + 1}", new([.. file.Span]), Affine.Scale(prepared.Width.Mm, prepared.Height.Mm), 1) { Origin = origin };
        var (picture, pxPerMm) = (prepared.Picture, 1 / prepared.PixelSide.Mm);
        var box = piece.Outline.Bounds.Grown(AroundMm);
        int left = Math.Max(0, (int)Math.Floor(box.Left * pxPerMm)), top = Math.Max(0, (int)Math.Floor(box.Top * pxPerMm));
        var part = picture.Crop(left, top, (int)Math.Ceiling(box.Right * pxPerMm) - left, (int)Math.Ceiling(box.Bottom * pxPerMm) - top);
        var map = new Affine(part.Width / pxPerMm, 0, 0, part.Height / pxPerMm, left / pxPerMm, top / pxPerMm);
        byte[] png = part.ToPng();
        return new($"a{index + 1}", new([.. Canvas.Clipped(png, map, [piece.Outline]) ?? png]), map, 1) { Origin = origin };
    }

    /// <summary>
    /// A picture with colour that fills its frame is taken whole. Others with colour are cut around and keep their picture, unless they are a few plain
    /// colours, which become a ply each; what has only light and dark becomes one colour.
    /// </summary>
    private static (TraceSettings Settings, string Why) Propose(Raster picture)
    {
        var cutOut = Shades.IsCutOut(picture);
        var (colourful, plain) = Look(picture);
        if (!colourful) return (new() { Mode = TraceMode.Flat }, "only light and dark: one colour with its holes");
        if (!cutOut && Matte.FillsItsFrame(picture)) return (new() { Mode = TraceMode.Whole }, "it fills its frame: a rectangle with the whole picture on it");
        if (plain is >= 1 and <= 12)
            return (new() { Mode = TraceMode.Colours, Colours = Math.Max(1, plain - (cutOut ? 0 : 1)) },
                $"{(plain == 1 ? "1 plain colour" : $"{plain} plain colours")}{(cutOut ? "" : ", the paper being one")}: a ply each");
        return (new() { Mode = TraceMode.Outline, KeepPicture = true, Ground = cutOut ? Ground.SeeThrough : Ground.JoinedToRim },
            "many colours: the outer edge, to cut around the printed picture");
    }

    /// <summary>Whether there is colour, and how many plain colours cover nearly all of it; 0 where they don't.</summary>
    private static (bool Colourful, int Plain) Look(Raster picture)
    {
        var counts = new Dictionary<int, int>();
        int seen = 0, coloured = 0;
        var step = Math.Max(1, picture.Width * picture.Height / 200_000) | 1;
        for (var i = 0; i < picture.Width * picture.Height; i += step)
        {
            var p = i * 4;
            if (picture.Rgba[p + 3] < 128) continue;
            byte r = picture.Rgba[p], g = picture.Rgba[p + 1], b = picture.Rgba[p + 2];
            seen++;
            if (Math.Max(r, Math.Max(g, b)) - Math.Min(r, Math.Min(g, b)) > 40) coloured++;
            var key = (r >> 4) << 8 | (g >> 4) << 4 | b >> 4;
            counts[key] = counts.GetValueOrDefault(key) + 1;
        }

        if (seen == 0) return (false, 0);
        var plain = counts.Values.Where(n => n > seen / 150).ToList();
        return (coloured > seen / 40, plain.Sum() > seen * 0.9 ? plain.Count : 0);
    }
}

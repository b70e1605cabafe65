using System.Collections.Immutable;
using System.CommandLine;
using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Tracing;
using Falzkunst.Core.Writing;

namespace Falzkunst.Cli;

internal static class TraceCommand
{
    public static Command Make()
    {
        var image = new Argument<string>("IMAGE") { Description = "a PNG, JPEG or WebP picture" };
        var how = new Option<string>("--mode")
        {
            HelpName = "outline|flat|colours|centreline",
            Description = "the outer edge only, one colour with its holes, several colours, or the middle of pen strokes",
            Required = true,
        };
        var colours = new Option<int>("--colours")
        {
            HelpName = "N",
            Description = "with colours: how many, without the paper, 1 to 12 (4)",
            DefaultValueFactory = _ => 4,
        };
        var dpi = new Option<double?>("--dpi") { HelpName = "N", Description = "pixels in an inch (what the picture says, or 300)" };
        var threshold = new Option<double?>("--threshold")
        {
            HelpName = "N",
            Description = "the lightness below which there is ink, 1 to 254 (found by itself)",
        };
        var smoothing = new Option<double>("--smoothing")
        {
            HelpName = "N",
            Description = "0 follows every pixel, 1 is usual, 3 is very smooth (1)",
            DefaultValueFactory = _ => 1,
        };
        var speck = new Option<double>("--speck") { HelpName = "MM2", Description = "leaves out what is smaller (0.06)", DefaultValueFactory = _ => 0.06 };
        var border = new Option<double>("--border") { HelpName = "MM", Description = "with outline: how far outside the edge it runs (0)" };
        var join = new Option<bool>("--join") { Description = "with outline: joins parts that lie apart to one piece" };
        var beside = new Option<bool>("--side-by-side") { Description = "with colours: colours lie side by side, instead of also under those above them" };
        var ground = new Option<string>("--ground")
        {
            HelpName = "see-through|joined|alike",
            Description = "what is taken away first: only what is see-through, what looks like the rim and is joined to it, or all that looks like the rim "
            + "(see-through)",
            DefaultValueFactory = _ => "see-through",
        };
        var touch = new Option<string[]>("--touch")
        {
            HelpName = "X,Y",
            Description = "takes the surroundings of this pixel away as well; may be given several times",
            AllowMultipleArgumentsPerToken = true,
        };
        var tolerance = new Option<double>("--tolerance")
        {
            HelpName = "N",
            Description = "how different from the ground a colour may be, 0 to 100 (10)",
            DefaultValueFactory = _ => 10,
        };
        var crop = new Option<string?>("--crop") { HelpName = "X,Y,W,H", Description = "traces only this part, in pixels" };
        var corners = new Option<double>("--corners")
        {
            HelpName = "DEGREES",
            Description = "the least turn that is kept as a corner, 10 to 120 (32)",
            DefaultValueFactory = _ => 32,
        };
        var evenLight = new Option<bool>("--even-light") { Description = "with flat and centreline: takes uneven light away (by itself where it is found)" };
        var output = new Option<string>("--out") { HelpName = "OUT.svg", Description = "the paths to write", Required = true };
        var command = new Command("trace", "Turns a picture into paths.") { image, how, colours, dpi, threshold, smoothing, speck, border, join, beside,
            ground, touch, tolerance, crop, corners, evenLight, output, };
        command.Answers(parsed =>
        {
            TraceMode? mode = parsed.GetValue(how)!.ToLowerInvariant() switch
            {
                "outline" => TraceMode.Outline,
                "flat" => TraceMode.Flat,
                "colours" => TraceMode.Colours,
                "centreline" => TraceMode.CentreLine,
                _ => null,
            };
            if (mode is null) throw new WrongInputException($"--mode takes outline, flat, colours or centreline, not \"{parsed.GetValue(how)}\".");
            Ground? taken = parsed.GetValue(ground)!.ToLowerInvariant() switch
            {
                "see-through" => Ground.SeeThrough,
                "joined" => Ground.JoinedToRim,
                "alike" => Ground.LikeRim,
                _ => null,
            };
            if (taken is null) throw new WrongInputException($"--ground takes see-through, joined or alike, not \"{parsed.GetValue(ground)}\".");
            var touched = (parsed.GetValue(touch) ?? []).Select(t => Pixels("--touch", t, 2)).Select(p => new Pixel(p[0], p[1])).ToImmutableArray();
            var part = parsed.GetValue(crop) is { } c && Pixels("--crop", c, 4) is var b ? new PixelBox(b[0], b[1], b[2], b[3]) : (PixelBox?)null;
            if (!double.IsFinite(parsed.GetValue(border))) throw new WrongInputException("--border takes millimetres.");
            var settings = new TraceSettings
            {
                Mode = mode.Value,
                Colours = parsed.GetValue(colours),
                Dpi = parsed.GetValue(dpi),
                Threshold = parsed.GetValue(threshold),
                Smoothing = parsed.GetValue(smoothing),
                SpeckMm2 = parsed.GetValue(speck),
                Border = Length.FromMm(parsed.GetValue(border)),
                Join = parsed.GetValue(join),
                Stacked = !parsed.GetValue(beside),
                Ground = taken.Value,
                Touched = touched,
                PaperTolerance = parsed.GetValue(tolerance),
                Crop = part,
                Corner = Angle.FromDegrees(parsed.GetValue(corners)),
                EvenLight = parsed.GetValue(evenLight) ? true : null,
            };
            if (TraceLimits.Fault(settings) is { } fault) throw new WrongInputException($"--{fault.Setting} takes {fault.Takes}.");
            var traced = CommandLine.Try(parsed.GetValue(image)!,
                bytes => Tracer.Trace(Raster.Read(bytes, ReadingLimits.Default, Prepared.MostPixels), settings));
            CommandLine.WriteWhole(parsed.GetValue(output)!, Encoding.UTF8.GetBytes(SvgFile.Write(traced)));
            return new Answer(traced.Paths, traced.Nodes, traced.Layers.Length, traced.Width.Mm, traced.Height.Mm);
        });
        return command;
    }

    private sealed record Answer(int Paths, int Nodes, int Colours, double WidthMm, double HeightMm);

    private static int[] Pixels(string option, string text, int count)
    {
        var parts = text.Split(',').Select(p => int.TryParse(p, out var v) ? v : -1).ToArray();
        return parts.Length == count && parts.All(p => p is >= 0 and < 100_000) ? parts
            : throw new WrongInputException($"{option} takes {count} whole numbers of pixels with commas between them, not \"{text}\".");
    }
}

using System.CommandLine;
using System.Text;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Reading.Pictures;
using Falzkunst.Core.Tracing;
using Falzkunst.Core.Writing;

namespace Falzkunst.Cli;

internal static class TraceCommand
{
    public static Command Make()
    {
        var image = new Argument<string>("IMAGE") { Description = "a PNG, JPEG or WebP picture" };
        var how = new Option<string>("--mode") { HelpName = "outline|flat|colours|centreline", Description = "the outer edge only, one colour with its holes, several colours, or the middle of pen strokes", Required = true };
        var colours = new Option<int>("--colours") { HelpName = "N", Description = "with colours: how many, without the paper, 1 to 12 (4)", DefaultValueFactory = _ => 4 };
        var dpi = new Option<double?>("--dpi") { HelpName = "N", Description = "pixels in an inch (what the picture says, or 300)" };
        var threshold = new Option<double?>("--threshold") { HelpName = "N", Description = "the lightness below which there is ink, 1 to 254 (found by itself)" };
        var smoothing = new Option<double>("--smoothing") { HelpName = "N", Description = "0 follows every pixel, 1 is usual, 3 is very smooth (1)", DefaultValueFactory = _ => 1 };
        var speck = new Option<double>("--speck") { HelpName = "MM2", Description = "leaves out what is smaller (0.06)", DefaultValueFactory = _ => 0.06 };
        var border = new Option<double>("--border") { HelpName = "MM", Description = "with outline: how far outside the edge it runs (0)" };
        var join = new Option<bool>("--join") { Description = "with outline: joins parts that lie apart to one piece" };
        var beside = new Option<bool>("--side-by-side") { Description = "with colours: colours lie side by side, instead of also under those above them" };
        var output = new Option<string>("--out") { HelpName = "OUT.svg", Description = "the paths to write", Required = true };
        var command = new Command("trace", "Turns a picture into paths.") { image, how, colours, dpi, threshold, smoothing, speck, border, join, beside, output };
        command.Answers((parsed, json) =>
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
            if (parsed.GetValue(colours) is < 1 or > 12) throw new WrongInputException("--colours takes a number from 1 to 12.");
            if (parsed.GetValue(dpi) is { } d && !(d is >= 10 and <= 10_000)) throw new WrongInputException("--dpi takes a number from 10 to 10000.");
            if (parsed.GetValue(threshold) is { } t && !(t is >= 1 and <= 254)) throw new WrongInputException("--threshold takes a number from 1 to 254.");
            if (!(parsed.GetValue(smoothing) is >= 0 and <= 5)) throw new WrongInputException("--smoothing takes a number from 0 to 5.");
            if (!(parsed.GetValue(speck) is >= 0 and <= 10_000)) throw new WrongInputException("--speck takes an area in square millimetres from 0 to 10000.");
            if (!(parsed.GetValue(border) is >= 0 and <= 100)) throw new WrongInputException("--border takes millimetres from 0 to 100.");
            var traced = CommandLine.Try(parsed.GetValue(image)!, bytes => Tracer.Trace(Raster.Read(bytes, ReadingLimits.Default), new()
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
            }));
            CommandLine.WriteWhole(parsed.GetValue(output)!, Encoding.UTF8.GetBytes(SvgFile.Write(traced)));
            json.WriteNumber("paths", traced.Paths);
            json.WriteNumber("nodes", traced.Nodes);
            json.WriteNumber("colours", traced.Layers.Length);
            json.WriteRounded("widthMm", traced.WidthMm);
            json.WriteRounded("heightMm", traced.HeightMm);
        });
        return command;
    }
}

using System.Collections.Immutable;
using System.CommandLine;
using Falzkunst.Core.Files;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Printing;

namespace Falzkunst.Cli;

/// <summary><c>register</c>: how a printed sheet lies in a picture of it.</summary>
internal static class RegisterCommand
{
    public static Command Make()
    {
        var (sheet, inset, kind) = MarksCommand.Options();
        var scan = new Option<string>("--scan") { HelpName = "SCAN.png", Description = "a picture of the printed sheet: PNG or JPEG", Required = true };
        var dpi = new Option<double?>("--dpi") { HelpName = "N", Description = "pixels in an inch of the scan (what the picture says)" };
        var photo = new Option<bool>("--photo") { Description = "it is a photograph, perhaps not from straight above; --dpi is not needed" };
        var command = new Command("register", "Finds the marks in a picture of a printed sheet: where they are, and how the sheet lies.")
        {
            sheet, inset, kind, scan, dpi, photo,
        };
        command.Answers(parsed =>
        {
            var marks = MarksCommand.Read(parsed, sheet, inset, kind);
            var path = parsed.GetValue(scan)!;
            var (reading, density) = CommandLine.Try(path, bytes =>
            {
                var picture = GreyPicture.Read(bytes, ReadingLimits.Default);
                if (parsed.GetValue(photo)) return (MarkReader.ReadPhotograph(marks, picture), (double?)null);
                var perInch = parsed.GetValue(dpi) ?? Raster.Density(bytes)
                    ?? throw new UnreadableFileException("the picture does not say how many pixels are in an inch; say it with --dpi");
                if (perInch is not (>= 30 and <= 10_000)) throw new UnreadableFileException("--dpi takes a number from 30 to 10,000");
                return (MarkReader.Read(marks, [new(picture, perInch / Length.MmPerInch, new(0, 0))]), perInch);
            });
            if (reading.Why is { } why) throw new WrongInputException($"{path}: {char.ToLowerInvariant(why[0])}{why[1..]}");
            var map = reading.Map!.Value;
            var near = map.Near(new(marks.Width.Mm / 2, marks.Height.Mm / 2));
            return new Answer([.. reading.Found.Select(f => new MarksCommand.At(f.Id, f.At.X, f.At.Y))], [near.A, near.B, near.C, near.D, near.E, near.F],
                reading.ResidualMm, reading.UncertainMm, reading.SpreadMm, map.IsAffine ? null : [map.G, map.H],
                map.IsAffine ? null : [map.A, map.B, map.C, map.D, map.E, map.F], map.IsAffine ? density : reading.PxPerMm * Length.MmPerInch);
        });
        return command;
    }

    /// <param name="Transform">From mm of the sheet to mm of the scan; of a photograph, what it does in the middle of the sheet.</param>
    /// <param name="Tilt">Of a photograph: g and h of w = g·x + h·y + 1, by which what <paramref name="Projective"/> gives is divided.</param>
    /// <param name="Projective">Of a photograph: its first six numbers, in the order of <paramref name="Transform"/>.</param>
    private sealed record Answer(ImmutableArray<MarksCommand.At> Found, double[] Transform, double ResidualMm, double UncertainMm, double SpreadMm,
        double[]? Tilt, double[]? Projective, double? Dpi);
}

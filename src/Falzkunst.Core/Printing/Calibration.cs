using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Printing;

/// <summary>What is known of a machine with sheets of one printer.</summary>
/// <param name="Off">From where a cut belongs to where the tool comes down, in mm: eye and tool are never mounted exactly where the machine takes them to
/// be.</param>
/// <param name="Across">How long the printer makes 100 mm across the sheet.</param>
/// <param name="Along">How long it makes them along the sheet.</param>
public sealed record Calibration(Point Off, Length Across, Length Along)
{
    /// <summary>What 100 mm are where nothing was measured.</summary>
    public static Length Ruler { get; } = Length.FromMm(100);

    public static Calibration None { get; } = new(default, Ruler, Ruler);

    /// <summary>After so long things have moved: it is due again.</summary>
    public static TimeSpan Lasts { get; } = TimeSpan.FromDays(90);

    private const double MostOff = 3, MostStretch = 3;

    /// <summary>The map of the mat that makes a cut come down where it belongs.</summary>
    public Affine Correction => Affine.Move(-Off.X, -Off.Y);

    /// <summary>The map of a page that makes its print as long as it should be, about its middle.</summary>
    public Affine OnPage(Length width, Length height)
    {
        var (x, y) = (width.Mm / 2, height.Mm / 2);
        return Affine.Move(-x, -y).Then(Affine.Scale(Ruler.Mm / Across.Mm, Ruler.Mm / Along.Mm)).Then(Affine.Move(x, y));
    }

    /// <summary>What is wrong with it, as a sentence that says what to do; null where all is well.</summary>
    public string? Fault() => !(Math.Abs(Off.X) <= MostOff && Math.Abs(Off.Y) <= MostOff)
            ? $"A cut that is farther off than {MostOff} mm is not calibrated away: look whether the tool sits right in its holder."
        : !(Math.Abs(Across.Mm - Ruler.Mm) <= MostStretch && Math.Abs(Along.Mm - Ruler.Mm) <= MostStretch)
            ? $"Rulers that are not 97 to 103 mm long were printed with scaling on: print the test page again with “actual size”, or 100 %." : null;
}

/// <summary>What a scan of a calibration page says.</summary>
/// <param name="Off">As of <see cref="Calibration.Off"/>; null where it could not be read.</param>
/// <param name="SpreadMm">How far single steps of the ladders say otherwise, in the middle.</param>
/// <param name="Why">A sentence where it could not be read.</param>
public sealed record CalibrationReading(Point? Off, double SpreadMm, string? Why);

/// <summary>
/// A page with marks and two ladders. Each has 21 printed rungs, and a cut belongs beside each, one tenth of a millimetre farther on from rung to rung: from a
/// millimetre before it to one behind it. Where a cut goes on straight from its rung, the number there says how far the tool comes down from where it
/// belongs. So the eye only tells whether two lines meet, which it does to a twentieth of a millimetre (a vernier).
/// </summary>
public static class CalibrationPage
{
    /// <summary>From one rung to the next, in mm, and by how much cuts go ahead.</summary>
    private const double Pitch = 5.6, Step = 0.1;

    private const int Half = 10;

    /// <summary>How long a rung and its cut are, and what lies between them.</summary>
    private const double Rung = 5, Cut = 6, Gap = 0.6, Wide = 0.25;

    private const double Least = 2 * Half * Pitch + 20, LeastAlong = Least + 40;

    /// <summary>A rung of a ladder.</summary>
    /// <param name="At">Where on the sheet rung and cut would meet.</param>
    /// <param name="Across">Whether rungs stand upright, one to the right of the other.</param>
    /// <param name="Ahead">By how much the cut is ahead, in mm.</param>
    private readonly record struct Place(Point At, bool Across, double Ahead)
    {
        private Point To(double ahead, double beside) => At + (Across ? new Point(ahead, beside) : new Point(beside, ahead));

        public VectorPath Printed => VectorPath.Polyline(To(0, -Gap / 2 - Rung), To(0, -Gap / 2));

        public VectorPath CutPath => VectorPath.Polyline(To(Ahead, Gap / 2), To(Ahead, Gap / 2 + Cut));

        /// <summary>A point beside the rung or its cut.</summary>
        /// <param name="part">How far along it, from 0 to 1.</param>
        public Point Beside(double ahead, double part, bool ofCut) => To(ahead, ofCut ? Gap / 2 + part * Cut : -Gap / 2 - part * Rung);
    }

    /// <summary>Why a sheet has no room for it, as a sentence; null where it has.</summary>
    public static string? Fault(SheetMarks marks) => marks.Fault() ?? (marks.Width.Mm < Least || marks.Height.Mm < LeastAlong
        ? $"The ladders need a sheet of {Least:0} × {LeastAlong:0} mm, such as A5; choose a larger one." : null);

    /// <summary>Where the machine cuts, on the sheet.</summary>
    public static ImmutableArray<VectorPath> Cuts(SheetMarks marks) => [.. Places(marks).Select(p => p.CutPath)];

    /// <summary>The page to print: marks, ladders, and what to do with it.</summary>
    /// <exception cref="ArgumentException">The sheet has no room for it, see <see cref="Fault"/>.</exception>
    public static byte[] Pdf(SheetMarks marks)
    {
        if (Fault(marks) is { } fault) throw new ArgumentException(fault, nameof(marks));
        var words = new List<VectorPath>();
        foreach (var place in Places(marks))
        {
            var tenths = (int)Math.Round(place.Ahead / Step);
            if (tenths % 5 != 0) continue;
            var (at, part) = place.Across ? (place.At + new Point(0, -Rung - 1.6), 0.5) : (place.At + new Point(-Rung - 1.4, 0.7), 1.0);
            // What is read there is how far off the tool is: it comes down behind where the cut is ahead of nothing.
            words.Add(PrintFile.Set(tenths == 0 ? "0" : string.Create(CultureInfo.InvariantCulture, $"{-place.Ahead:+0.0;-0.0}"), at.X, at.Y, part));
        }

        var left = marks.Width.Mm / 2 + 14;
        var top = Ladders(marks).Along.Y - Half * Pitch;
        string[] says = ["Lay it on the mat, and have its cuts made.", "Then look where a cut goes on", "straight from its rung:",
            "type the number there, across and along,",
            "or scan the page at 300 an inch or more."];
        for (var i = 0; i < says.Length; i++) words.Add(PrintFile.Set(says[i], left, top + 20 + i * 4.4, 0));
        return Paper.Pdf([(marks.Width, marks.Height, [.. Layers(marks), PrintFile.Inked(words, Black)])]);
    }

    private static Ink Black { get; } = new(Colour.Black, FillRule.NonZero, null);

    /// <summary>What is read of the page: the marks and the rungs.</summary>
    internal static IEnumerable<Layer> Layers(SheetMarks marks) =>
    [
        PrintFile.Inked(marks.All.Select(m => m.Ink), Black),
        PrintFile.Inked(Places(marks).Select(p => p.Printed), Black with
        {
            Fill = null,
            Stroke = new(Colour.Black, Length.FromMm(Wide), LineCap.Butt, LineJoin.Miter, 4, [], Length.Zero),
        }),
    ];

    /// <summary>
    /// Reads a scan of the page after its cuts were made. The marks say where the sheet lies; then, at each rung, the middles of the printed line and of the
    /// cut are found as the centres of what is darker than the paper around, and each tells how far off the tool is. The answer is the median of all.
    /// </summary>
    public static CalibrationReading Read(SheetMarks marks, GreyPicture scan, double pxPerMm, CancellationToken cancel = default)
    {
        var found = MarkReader.Read(marks, [new(scan, pxPerMm, new(0, 0))], cancel);
        if (found.Map is not { } map) return new(null, 0, found.Why);
        var (across, along) = (new List<double>(), new List<double>());
        foreach (var place in Places(marks))
        {
            cancel.ThrowIfCancellationRequested();
            if (Line(place, false, 0) is { } rung && Line(place, true, place.Ahead) is { } cut) (place.Across ? across : along).Add(cut - rung - place.Ahead);
        }

        const int least = 9;
        if (across.Count < least || along.Count < least)
            return new(null, 0, "The cuts can't be seen. Lay something dark behind the sheet, and scan it at 300 an inch or more; or type what you read.");
        var off = new Point(Middle(across), Middle(along));
        var spread = Middle([.. across.Select(o => Math.Abs(o - off.X)), .. along.Select(o => Math.Abs(o - off.Y))]);
        const double most = 0.15;
        return spread > most ? new(null, spread, "The rungs say different things: the sheet has moved while it was cut, or lies in waves. Do it once more.")
            : new(off, spread, null);

        double? Line(Place place, bool ofCut, double expected)
        {
            const double reach = 1.6, step = 0.02;
            const int samples = 24;
            var light = new double[(int)(2 * reach / step) + 1];
            for (var i = 0; i < light.Length; i++)
                for (var k = 0; k < samples; k++)
                {
                    var at = map.Apply(place.Beside(expected - reach + i * step, 0.15 + 0.7 * k / (samples - 1), ofCut)) * pxPerMm;
                    light[i] += scan.At(at.X, at.Y) / samples;
                }

            // The darkest place, and the centre of what is dark within the width of a line around it.
            var paper = light.Order().ElementAt(light.Length * 3 / 4);
            var noise = Middle([.. light.Select(l => Math.Abs(l - paper))]);
            var darkest = Array.IndexOf(light, light.Min());
            if (paper - light[darkest] < Math.Max(5, 5 * noise)) return null;
            double sum = 0, weight = 0;
            for (var i = darkest - (int)(0.35 / step); i <= darkest + (int)(0.35 / step); i++)
            {
                if (i < 0 || i >= light.Length) return null;
                var dark = Math.Max(0, paper - light[i] - 2 * noise);
                (sum, weight) = (sum + dark * i, weight + dark);
            }

            return weight > 0 ? expected - reach + sum / weight * step : null;
        }

        static double Middle(List<double> values) => values.Order().ElementAt(values.Count / 2);
    }

    private static (Point Across, Point Along) Ladders(SheetMarks marks)
    {
        var top = (marks.Height.Mm - LeastAlong) / 2 + 26;
        return (new(marks.Width.Mm / 2, top), new(marks.Width.Mm / 2, top + 14 + Half * Pitch));
    }

    private static IEnumerable<Place> Places(SheetMarks marks)
    {
        var (across, along) = Ladders(marks);
        for (var k = -Half; k <= Half; k++) yield return new(across + new Point(k * Pitch, 0), true, k * Step);
        for (var k = -Half; k <= Half; k++) yield return new(along + new Point(0, k * Pitch), false, k * Step);
    }
}

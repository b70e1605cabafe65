using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Layout;

public sealed class SheetMarksTests
{
    /// <summary>On any sheet: ink keeps the inset on both sides of its corner, lies in what is kept empty and in what is printed, and nothing is cut there;
    /// turned by half, quarter or three quarters, no sheet looks as it does upright.</summary>
    [Fact]
    public void Marks_keep_their_inset_and_their_surroundings_empty_and_tell_which_way_round_a_sheet_lies()
    {
        var r = new Random(12);
        for (var k = 0; k < 200; k++)
        {
            var kind = (MarkKind)(k % 3);
            var marks = new SheetMarks(kind, Length.FromMm(90 + 300 * r.NextDouble()), Length.FromMm(90 + 300 * r.NextDouble()),
                Length.FromMm(4.2 + 8 * r.NextDouble()));
            Assert.Null(marks.Fault());
            var ink = VectorPath.Joined(marks.All.Select(m => m.Ink));
            Assert.Equal(marks.Inset.Mm, ink.Bounds.Left, 1e-9);
            Assert.Equal(marks.Inset.Mm, ink.Bounds.Top, 1e-9);
            Assert.Equal(marks.Width.Mm - marks.Inset.Mm, ink.Bounds.Right, 1e-9);
            Assert.Equal(marks.Height.Mm - marks.Inset.Mm, ink.Bounds.Bottom, 1e-9);
            Assert.Empty(Together.TakeAway(ink, [marks.PrintArea]));
            foreach (var m in marks.All)
            {
                Assert.Empty(Together.TakeAway(m.Ink, [m.KeepOut]));
                Assert.Empty(Together.Overlap([m.KeepOut, marks.CutArea]));
                Assert.InRange(m.Ink.DistanceTo(m.At), 0, SheetMarks.Size(kind).Mm / 2 + 1e-6);
            }

            Assert.True(marks.CutArea.SignedAreaMm2 > 0.5 * marks.Width.Mm * marks.Height.Mm - 4 * 32 * 32);
            foreach (var turn in new[] { 90, 180, 270 })
            {
                var turned = ink.Transform(Affine.Turn(Angle.FromDegrees(turn)));
                turned = turned.Transform(Affine.Move(ink.Bounds.Left - turned.Bounds.Left, ink.Bounds.Top - turned.Bounds.Top));
                Assert.True(Together.TakeAway(turned, [ink]).Sum(p => p.SignedAreaMm2) > 5);
            }
        }
    }

    [Fact]
    public void Sheets_that_marks_do_not_fit_are_refused_with_what_to_do()
    {
        SheetMarks Of(double w, double h, double inset) => new(MarkKind.Brackets, Length.FromMm(w), Length.FromMm(h), Length.FromMm(inset));
        Assert.Contains("larger sheet", Of(60, 200, 8).Fault());
        Assert.Contains("not printed", Of(210, 297, 2).Fault());
        Assert.Contains("2 m", Of(-1, 297, 8).Fault());
    }
}

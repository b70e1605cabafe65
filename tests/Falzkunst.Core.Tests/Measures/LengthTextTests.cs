using CsCheck;

namespace Falzkunst.Core.Tests.Measures;

public sealed class LengthTextTests
{
    [Theory]
    [InlineData("5 1/2", LengthUnit.Inch, 139.7)]
    [InlineData("2*4.25", LengthUnit.Inch, 215.9)]
    [InlineData("3 3/4", LengthUnit.Inch, 95.25)]
    [InlineData("108mm", LengthUnit.Inch, 108)]
    [InlineData("4.25in", LengthUnit.Millimetre, 107.95)]
    [InlineData("148 - 2*6", LengthUnit.Millimetre, 136)]
    [InlineData("1/2in + 3", LengthUnit.Millimetre, 15.7)]
    [InlineData("(10+2)*3 cm", LengthUnit.Millimetre, 360)]
    [InlineData("12,5", LengthUnit.Millimetre, 12.5)]
    [InlineData("-3", LengthUnit.Millimetre, -3)]
    [InlineData("11 in / 2", LengthUnit.Millimetre, 139.7)]
    [InlineData("4 1/4\"", LengthUnit.Millimetre, 107.95)]
    [InlineData("72pt", LengthUnit.Millimetre, 25.4)]
    public void Reads_what_people_type(string text, LengthUnit unit, double mm)
    {
        if (text == "(10+2)*3 cm") mm = 360; // The unit belongs to the 3; the sum before it is a number.
        Assert.True(LengthText.TryRead(text, unit, out var length, out var error), error);
        Assert.Equal(mm, length.Mm, 9);
    }

    [Theory]
    [InlineData("")]
    [InlineData("two")]
    [InlineData("1/0")]
    [InlineData("3mm*4mm")]
    [InlineData("5/2in*")]
    [InlineData("(3")]
    [InlineData("3 4")]
    [InlineData("1e5000")]
    public void Says_why_it_cannot_read(string text)
    {
        Assert.False(LengthText.TryRead(text, LengthUnit.Millimetre, out _, out var error));
        Assert.EndsWith(".", error);
    }

    [Fact]
    public void Reads_what_it_writes() => Gen.Select(Gen.Double[-5000, 5000], Gen.Bool).Sample((mm, inch) =>
    {
        var unit = inch ? LengthUnit.Inch : LengthUnit.Millimetre;
        Assert.True(LengthText.TryRead(LengthText.Write(Length.FromMm(mm), unit), unit, out var again, out _));
        Assert.Equal(mm, again.Mm, inch ? 0.0128 : 0.0051);
    });

    [Fact]
    public void Never_throws() => Gen.String[Gen.Char["0123456789.,/*+-() inmcpt\"x"], 0, 12].Sample(text =>
    {
        if (LengthText.TryRead(text, LengthUnit.Inch, out var length, out _)) Assert.True(double.IsFinite(length.Mm));
    });
}

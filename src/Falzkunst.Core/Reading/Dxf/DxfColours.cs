
namespace Falzkunst.Core.Reading.Dxf;

/// <summary>The numbered colours of DXF: nine plain ones, 24 hues in ten shades each (10 to 249), six greys.</summary>
internal static class DxfColours
{
    private static readonly Colour[] Plain =
        [new(0, 0, 0), new(255, 0, 0), new(255, 255, 0), new(0, 255, 0), new(0, 255, 255), new(0, 0, 255), new(255, 0, 255), new(0, 0, 0), new(128, 128, 128),
        new(192, 192, 192)];
    private static readonly double[] Shades = [1, 0.65, 0.5, 0.3, 0.15];

    /// <summary>Number 7 is black on paper, whatever the screen's ground was.</summary>
    public static Colour Of(int number)
    {
        if (number is < 0 or > 255) return Colour.Black;
        if (number < Plain.Length) return Plain[number];
        if (number >= 250)
        {
            var grey = (byte)(51 + (number - 250) * 40.8);
            return new(grey, grey, grey);
        }

        double hue = (number - 10) / 10 * 15.0, value = Shades[number % 10 / 2], pale = number % 2 == 1 ? 0.5 : 0;
        return new(Channel(5), Channel(3), Channel(1));

        byte Channel(int n)
        {
            var k = (n + hue / 60) % 6;
            var full = 1 - Math.Clamp(Math.Min(k, 4 - k), 0, 1);
            return (byte)Math.Round(255 * value * (pale + (1 - pale) * full));
        }
    }
}

namespace Falzkunst.Core.Reading.Svg;

/// <summary>Transform lists of SVG; an unknown or damaged item ends the list, as the standard's error rule asks.</summary>
internal static class SvgTransforms
{
    public static Affine Read(string text)
    {
        var result = Affine.Identity;
        var at = 0;
        while (true)
        {
            var open = text.IndexOf('(', at);
            if (open < 0) return result;
            var close = text.IndexOf(')', open);
            if (close < 0) return result;
            var name = text[at..open].Trim(' ', ',', '\n', '\t', '\r');
            var v = new List<double>(6);
            var scan = new PathText.Scanner(text.AsSpan()[(open + 1)..close]);
            while (scan.Number(out var n)) v.Add(n);
            Affine? step = (name, v.Count) switch
            {
                ("matrix", 6) => new(v[0], v[1], v[2], v[3], v[4], v[5]),
                ("translate", 1) => Affine.Move(v[0], 0),
                ("translate", 2) => Affine.Move(v[0], v[1]),
                ("scale", 1) => Affine.Scale(v[0], v[0]),
                ("scale", 2) => Affine.Scale(v[0], v[1]),
                ("rotate", 1) => Affine.Turn(Angle.FromDegrees(v[0])),
                ("rotate", 3) => Affine.Move(-v[1], -v[2]).Then(Affine.Turn(Angle.FromDegrees(v[0]))).Then(Affine.Move(v[1], v[2])),
                ("skewX", 1) => new(1, 0, Math.Tan(v[0] * Math.PI / 180), 1, 0, 0),
                ("skewY", 1) => new(1, Math.Tan(v[0] * Math.PI / 180), 0, 1, 0, 0),
                _ => null,
            };
            if (step is not { } s) return result;
            result = s.Then(result);
            at = close + 1;
        }
    }
}

namespace Falzkunst.Core.Shapes;

/// <summary>Goes along chords, by how far it is to there in mm; only ever forwards.</summary>
internal sealed class PathWalk(List<Point> points)
{
    private int _chord;
    private double _before;

    /// <summary>The stretch between two distances, the second the greater.</summary>
    public List<Point> Between(double from, double to)
    {
        var way = new List<Point> { At(from) };
        while (_chord < points.Count - 2 && _before + Chord < to)
        {
            Next();
            way.Add(points[_chord]);
        }

        way.Add(At(to));
        return way;
    }

    private double Chord => points[_chord].DistanceTo(points[_chord + 1]);

    private void Next() => (_before, _chord) = (_before + Chord, _chord + 1);

    private Point At(double far)
    {
        while (_chord < points.Count - 2 && _before + Chord < far) Next();
        return points[_chord] + (points[_chord + 1] - points[_chord]) * Math.Clamp((far - _before) / Math.Max(1e-12, Chord), 0, 1);
    }
}

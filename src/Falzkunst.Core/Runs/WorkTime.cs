using System.Runtime.CompilerServices;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Runs;

/// <summary>
/// About how long a machine takes for each operation on one card, by the tools that are usually taken, its lines in the order in which they are there: what a
/// sheet takes depends on what lies beside it. Linear in the lines; after an edit only what changed is walked anew.
/// </summary>
public static class WorkTime
{
    /// <summary>A way and what it takes.</summary>
    private sealed record Walked(double SpeedMmS, double AccelerationMmS2, double Seconds, Point Start, Point End);

    private static readonly ConditionalWeakTable<VectorPath, Walked> Known = [];

    /// <summary>In seconds, by operation; those that no tool does are not in it.</summary>
    public static IReadOnlyDictionary<Operation, double> Of(Design design, Machine machine, IReadOnlyList<Tool> tools)
    {
        var (seconds, at) = (new Dictionary<Operation, double>(), new Dictionary<Operation, Point>());
        var byOperation = tools.GroupBy(t => t.Operation).ToDictionary(g => g.Key, g => g.First());
        foreach (var piece in design.Papers)
        {
            var place = piece.Place.Map;
            for (var i = 0; i < piece.Edges.Length; i++)
                if (byOperation.TryGetValue(piece.Edges[i].Operation, out var tool))
                    foreach (var part in piece.Edges[i].Worked(piece.Outline.Parts()[i])) Add(tool, part, place, piece.Edges[i].Passes);
            foreach (var line in piece.Lines) AddLine(line, place);
        }

        foreach (var line in design.Loose) AddLine(line, Affine.Identity);
        return seconds;

        void AddLine(Line line, Affine place)
        {
            if (!byOperation.TryGetValue(line.Operation, out var tool)) return;
            foreach (var part in line.WorkedBy(tool.Width)) Add(tool, part, place, line.Passes);
        }

        void Add(Tool tool, VectorPath path, Affine place, int? passes)
        {
            if (path.IsEmpty) return;
            var way = WalkedOf(path, Math.Min(machine.SpeedMmS, tool.SpeedMmS), machine.AccelerationMmS2);
            var hop = at.TryGetValue(tool.Operation, out var from) ? from.DistanceTo(place.Apply(way.Start)) : 0;
            seconds[tool.Operation] = seconds.GetValueOrDefault(tool.Operation)
                + (passes ?? 1) * (way.Seconds + 2 * machine.LiftSeconds * path.Subpaths.Length)
                + MotionModel.Seconds(hop, machine.TravelMmS, machine.AccelerationMmS2);
            at[tool.Operation] = place.Apply(way.End);
        }
    }

    private static Walked WalkedOf(VectorPath path, double speed, double acceleration)
    {
        if (Known.TryGetValue(path, out var known) && known.SpeedMmS == speed && known.AccelerationMmS2 == acceleration) return known;
        var (seconds, end) = (0.0, path.Subpaths[0].Start);
        foreach (var sub in path.Subpaths)
        {
            var points = sub.Walk(RunPlanner.Chord.Mm);
            seconds += MotionModel.Seconds(points, speed, acceleration);
            end = points[^1];
        }

        var walked = new Walked(speed, acceleration, seconds, path.Subpaths[0].Start, end);
        Known.AddOrUpdate(path, walked);
        return walked;
    }
}

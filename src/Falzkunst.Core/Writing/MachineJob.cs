using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Writing;

/// <summary>A step as it is sent to a machine.</summary>
/// <param name="Ends">For each of the step's strokes (<see cref="RunStep.Strokes"/>), the place in the text where it is over.</param>
public sealed record MachineJob(string Text, ImmutableArray<int> Ends)
{
    /// <summary>How many strokes are over once the machine has done the text up to a place.</summary>
    public int StrokesUpTo(int place)
    {
        var at = Ends.BinarySearch(place);
        return at >= 0 ? at + 1 : ~at;
    }
}

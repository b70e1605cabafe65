namespace Falzkunst.Core.Measures;

/// <summary>
/// Counted work: how many steps the geometry did on this thread, each about what it takes to look at one edge of an outline. The same input always counts the
/// same, on any machine and beside any other work, so that a limit on it gives the same answer everywhere. What is remembered counts as if it were done.
/// Costs a few nanoseconds where it is counted, which is once for many steps.
/// </summary>
public static class Steps
{
    [ThreadStatic]
    private static long _done;

    /// <summary>What this thread did since it began. Only the difference of two readings tells something.</summary>
    public static long Done => _done;

    /// <summary>Counts work that is about to be done, or was done on other threads for this one.</summary>
    public static void Count(long steps) => _done += steps;
}

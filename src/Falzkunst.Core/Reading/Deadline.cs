namespace Falzkunst.Core.Reading;

/// <summary>
/// Cancels something when its time is over, on a thread of its own: the timers of the thread pool come seconds late when the pool is busy, which is just when
/// something takes too long. Disposing ends the wait.
/// </summary>
internal sealed class Deadline : IDisposable
{
    private readonly ManualResetEventSlim _done = new();
    private readonly Thread _clock;

    public Deadline(TimeSpan after, CancellationTokenSource cancel)
    {
        _clock = new(() =>
        {
            if (!_done.Wait(after)) cancel.Cancel();
        })
        { IsBackground = true, Name = "deadline" };
        _clock.Start();
    }

    public void Dispose()
    {
        _done.Set();
        _clock.Join();
        _done.Dispose();
    }
}

using System.Net.Sockets;
using System.Text;
using System.Threading.Channels;

namespace Falzkunst.StandIns;

/// <summary>
/// A connection on which G-code is spoken: each line is answered by "ok" when there is room for another, a dwell (G4) and the program's end when all before
/// is done, a change of tools (M6) when the tool is in, and all by "error" once the cutter ran into something. CAN makes it forget its work.
/// </summary>
internal sealed class GcodeTalk(Cutter cutter, NetworkStream stream)
{
    /// <summary>So much is taken ahead, in bytes: what a small controller has room for.</summary>
    private const int RoomBytes = 1500;

    private const char Cancel = '\u0018';

    private readonly Lock _lock = new();
    private readonly Channel<(int Talk, string Line)> _lines = Channel.CreateUnbounded<(int, string)>();
    private readonly StringBuilder _line = new();
    private Gcode _gcode = new();
    private int _talk;

    /// <summary>Whether somebody who begins with this speaks G-code.</summary>
    public static bool Is(char first) => first is 'G' or 'g' or '(' or '%' or 'T' or 'N' or Cancel;

    /// <summary>Takes what comes; until the other side is gone, or it is cut off.</summary>
    /// <param name="first">What came already.</param>
    /// <param name="drop">Ends when the connection is to be cut off.</param>
    public async Task Run(string first, Task drop, CancellationToken cancel)
    {
        using var over = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var answering = Answer(drop, over.Token);
        try
        {
            Hear(first);
            var buffer = new byte[4096];
            while (true)
            {
                var pending = stream.ReadAsync(buffer, cancel).AsTask();
                if (await Task.WhenAny(pending, drop) != pending || await pending is 0) return;
                Hear(Encoding.ASCII.GetString(buffer, 0, await pending));
            }
        }
        finally
        {
            await over.CancelAsync();
            await answering.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    private void Hear(string text)
    {
        foreach (var c in text)
        {
            if (c == Cancel)
            {
                lock (_lock) (_talk, _gcode) = (_talk + 1, new());
                _line.Clear();
                cutter.Forget();
            }
            else if (c != '\n')
            {
                _line.Append(c);
            }
            else
            {
                _lines.Writer.TryWrite((_talk, _line.ToString()));
                _line.Clear();
            }
        }
    }

    private async Task Answer(Task drop, CancellationToken cancel)
    {
        await foreach (var (talk, line) in _lines.Reader.ReadAllAsync(cancel))
        {
            lock (_lock)
            {
                if (talk != _talk) continue;
                cutter.Take(_gcode.Take(line + "\n"), drop);
            }

            var untilDone = line.StartsWith("G4", StringComparison.Ordinal) || line.StartsWith('M') || line.Contains("M6", StringComparison.Ordinal);
            while (talk == _talk && cutter.ExtendedStatus is not (8 or 32) && (untilDone || cutter.BufferFree < Cutter.BufferBytes - RoomBytes))
                await Task.Delay(1, cancel);
            if (talk != _talk) continue;
            // A machine that was switched off since it was asked has nothing to say.
            if (drop.IsCompleted) return;
            var said = cutter.Answer() switch
            {
                Fault.Silence => "",
                Fault.Nonsense => "x?\n",
                _ => cutter.ExtendedStatus == 32 ? "error: it ran into something\n" : "ok\n",
            };
            await stream.WriteAsync(Encoding.ASCII.GetBytes(said), cancel);
        }
    }
}

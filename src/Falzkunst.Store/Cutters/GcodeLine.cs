using System.Text;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Writing;

namespace Falzkunst.Store.Cutters;

/// <summary>
/// G-code over a port of this computer, line by line: the machine answers each line with "ok" once it has room for another, and one that begins with "error"
/// where it ran into something. A dwell (G4) is answered when all before it is done, a change of tools (M6) when the tool is in. The control character CAN
/// makes it forget its work. What it is doing can't be asked, so a machine that has fallen silent looks like one that is still at its line.
/// </summary>
public sealed class GcodeLine : CutterLine
{
    /// <summary>So much is sent ahead of the answers.</summary>
    private const int WindowBytes = 4096;

    private const int LongestAnswer = 200;

    // Machines greet and chat besides; what begins like this is no answer.
    private const string Chat = "[(;/<$";

    private static readonly TimeSpan Quiet = TimeSpan.FromMilliseconds(100), ToolIn = TimeSpan.FromSeconds(1);

    private readonly Queue<(int Bytes, bool AsksForTool)> _open = [];
    private readonly StringBuilder _answer = new();
    private readonly byte[] _part = new byte[4096];
    private int _openBytes;
    private long _firstSince;
    private bool _failed;

    public override MachineJob Job(SheetRun sheet, RunStep step) => GcodeFile.Job(sheet, step);

    public override string MoveTo(SheetRun sheet, Point place) => GcodeFile.Move(sheet, place);

    public override async Task<CutterStatus> Status(CancellationToken cancel)
    {
        await Hear(cancel);
        var state = _failed ? CutterState.Failed : _open.Count == 0 ? CutterState.Idle
            : _open.Peek().AsksForTool && TimeProvider.System.GetElapsedTime(_firstSince) > ToolIn ? CutterState.Waiting : CutterState.Working;
        return new(state, WindowBytes - _openBytes);
    }

    public override async Task<int> Send(string text, int from, CancellationToken cancel)
    {
        await Hear(cancel);
        var end = from;
        while (end < text.Length && text.IndexOf('\n', end) + 1 is var next and > 0 && _openBytes + next - end <= WindowBytes)
        {
            if (_open.Count == 0) _firstSince = TimeProvider.System.GetTimestamp();
            _open.Enqueue((next - end, text.AsSpan(end, next - end).Contains("M6", StringComparison.Ordinal)));
            _openBytes += next - end;
            end = next;
        }

        if (end > from) await Wire.Within(c => Stream.WriteAsync(Encoding.ASCII.GetBytes(text[from..end]), c).AsTask(), cancel);
        return end;
    }

    public override async Task Abort(CancellationToken cancel)
    {
        _open.Clear();
        (_openBytes, _failed) = (0, false);
        _answer.Clear();
        await Wire.Within(c => Stream.WriteAsync("\u0018G4 P0\n"u8.ToArray(), c).AsTask(), cancel);
        // Answers to what it was sent before may still be on the way: it is heard until it is quiet.
        var heard = false;
        while (true)
        {
            using var quiet = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            if (heard) quiet.CancelAfter(Quiet);
            try
            {
                var count = 0;
                await Wire.Within(async c => count = await Stream.ReadAsync(_part, c), quiet.Token);
                if (count == 0) throw new IOException("the connection to the machine was lost");
                heard = true;
            }
            catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
            {
                return;
            }
        }
    }

    /// <summary>Takes what has been answered until now.</summary>
    private async Task Hear(CancellationToken cancel)
    {
        while (Client.Client.Poll(0, System.Net.Sockets.SelectMode.SelectRead))
        {
            var count = 0;
            await Wire.Within(async c => count = await Stream.ReadAsync(_part, c), cancel);
            if (count == 0) throw new IOException("the connection to the machine was lost");
            foreach (var c in Encoding.ASCII.GetString(_part, 0, count))
            {
                if (c is not ('\n' or '\r'))
                {
                    if (_answer.Append(c).Length > LongestAnswer) throw new IOException("the machine answers what nobody can read");
                    continue;
                }

                if (_answer.Length > 0) Answered(_answer.ToString());
                _answer.Clear();
            }
        }
    }

    private void Answered(string line)
    {
        if (line.StartsWith("error", StringComparison.OrdinalIgnoreCase)) _failed = true;
        else if (Chat.Contains(line[0], StringComparison.Ordinal)) return;
        else if (!line.StartsWith("ok", StringComparison.Ordinal) || _open.Count == 0) throw new IOException("the machine answers what nobody can read");
        else _openBytes -= _open.Dequeue().Bytes;
        _firstSince = TimeProvider.System.GetTimestamp();
    }
}

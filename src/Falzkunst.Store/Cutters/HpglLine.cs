using System.Text;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Writing;

namespace Falzkunst.Store.Cutters;

/// <summary>
/// HPGL over a port of this computer, with flow control by device control instructions (ESC.B: room in the buffer, ESC.O: state, ESC.K: forget).
/// </summary>
public sealed class HpglLine : CutterLine
{
    private const int LongestNumber = 9;

    public override MachineJob Job(SheetRun sheet, RunStep step) => HpglFile.WriteStep(sheet, step);

    public override string MoveTo(SheetRun sheet, Point place) => HpglFile.Move(sheet, place);

    public override async Task<CutterStatus> Status(CancellationToken cancel)
    {
        var state = await Ask('O', cancel);
        return new((state & 32) != 0 ? CutterState.Failed : (state & 16) != 0 ? CutterState.Waiting : (state & 8) != 0 ? CutterState.Idle : CutterState.Working,
            await Ask('B', cancel));
    }

    public override async Task<int> Send(string text, int from, CancellationToken cancel)
    {
        var free = await Ask('B', cancel) - 64;
        if (free <= 0) return from;
        // Only whole commands, so that what is asked in between never splits one.
        var end = Math.Min(text.Length, from + free);
        if (end < text.Length) end = text.LastIndexOf(';', end - 1, end - from) + 1;
        if (end <= from) return from;
        await Wire.Within(c => Stream.WriteAsync(Encoding.ASCII.GetBytes(text[from..end]), c).AsTask(), cancel);
        // The answer comes after what was sent has arrived: until then the machine would look idle.
        await Ask('B', cancel);
        return end;
    }

    public override async Task Abort(CancellationToken cancel)
    {
        await Wire.Within(c => Stream.WriteAsync("\u001b.K"u8.ToArray(), c).AsTask(), cancel);
        await Ask('B', cancel);
    }

    private async Task<int> Ask(char what, CancellationToken cancel)
    {
        var number = 0;
        var digits = 0;
        var one = new byte[1];
        // One limit for the whole answer: a machine that says a digit a second is as good as silent.
        await Wire.Within(async c =>
        {
            await Stream.WriteAsync(new byte[] { 27, (byte)'.', (byte)what }, c);
            while (true)
            {
                if (await Stream.ReadAsync(one, c) == 0) throw new IOException("the connection to the machine was lost");
                if (one[0] == '\r' && digits > 0) return;
                if (one[0] is < (byte)'0' or > (byte)'9' || ++digits > LongestNumber) throw new IOException("the machine answers what nobody can read");
                number = number * 10 + one[0] - '0';
            }
        }, cancel);
        return number;
    }
}

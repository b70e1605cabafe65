using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;

namespace Falzkunst.Store.Cutters;

/// <summary>
/// HPGL over a port of this computer, with flow control by device control instructions (ESC.B: room in the buffer, ESC.O: state, ESC.K: forget).
/// What the machine did is asked on a port of its own, where it has one.
/// </summary>
public sealed class HpglLine : ICutterLine
{
    /// <summary>The longest wait for any one answer. Short enough that a stop is obeyed within two seconds though the machine is silent.</summary>
    internal static readonly TimeSpan Patience = TimeSpan.FromSeconds(1.5);

    // What a machine sends in one answer, at most: a hundred thousand strokes are some 20 MB.
    private const int LongestNumber = 9, LongestRecord = 200_000_000;

    // Short questions that wait for an answer: gathering them into larger packets costs 40 ms each.
    private readonly TcpClient _plot = new() { NoDelay = true };
    private readonly int? _recordPort;
    private NetworkStream _stream = null!;

    private HpglLine(int? recordPort) => _recordPort = recordPort;

    /// <exception cref="IOException">There is no machine.</exception>
    public static async Task<ICutterLine> Open(MachineRow machine, CancellationToken cancel)
    {
        var line = new HpglLine(machine.RecordPort);
        try
        {
            await Within(c => line._plot.ConnectAsync(IPAddress.Loopback, machine.Port, c).AsTask(), cancel);
            line._stream = line._plot.GetStream();
            return line;
        }
        catch (Exception e)
        {
            await line.DisposeAsync();
            if (e is IOException { InnerException: SocketException }) throw new IOException("the machine does not answer", e);
            throw;
        }
    }

    public async Task<CutterStatus> Status(CancellationToken cancel)
    {
        var state = await Ask('O', cancel);
        return new((state & 32) != 0 ? CutterState.Failed : (state & 16) != 0 ? CutterState.Waiting : (state & 8) != 0 ? CutterState.Idle : CutterState.Working,
            await Ask('B', cancel));
    }

    public async Task<int> Send(string text, int from, CancellationToken cancel)
    {
        var free = await Ask('B', cancel) - 64;
        if (free <= 0) return from;
        // Only whole commands, so that what is asked in between never splits one.
        var end = Math.Min(text.Length, from + free);
        if (end < text.Length) end = text.LastIndexOf(';', end - 1, end - from) + 1;
        if (end <= from) return from;
        await Within(c => _stream.WriteAsync(Encoding.ASCII.GetBytes(text[from..end]), c).AsTask(), cancel);
        // The answer comes after what was sent has arrived: until then the machine would look idle.
        await Ask('B', cancel);
        return end;
    }

    public async Task Abort(CancellationToken cancel)
    {
        await Within(c => _stream.WriteAsync("\u001b.K"u8.ToArray(), c).AsTask(), cancel);
        await Ask('B', cancel);
    }

    public async Task<int?> Remembered(CancellationToken cancel) => (await Record<Look>(new { @do = "look" }, cancel))?.Strokes;

    public Task<CutterMark[]?> Record(int from, CancellationToken cancel) => Record<CutterMark[]>(new { @do = "record", from }, cancel);

    public ValueTask DisposeAsync()
    {
        _plot.Dispose();
        return ValueTask.CompletedTask;
    }

    private sealed record Look(int Strokes);

    private async Task<T?> Record<T>(object request, CancellationToken cancel)
        where T : class => _recordPort is { } port ? await Told<T>(port, request, Patience, cancel) : null;

    /// <summary>Asks on a line of its own, so that what was done can be asked even after the other one was lost.</summary>
    internal static async Task<T?> Told<T>(int port, object request, TimeSpan patience, CancellationToken cancel)
        where T : class
    {
        using var client = new TcpClient { NoDelay = true };
        await Within(c => client.ConnectAsync(IPAddress.Loopback, port, c).AsTask(), cancel);
        var stream = client.GetStream();
        await Within(c => stream.WriteAsync(Encoding.UTF8.GetBytes(JsonSerializer.Serialize(request) + "\n"), c).AsTask(), cancel);
        using var answer = new MemoryStream();
        var part = new byte[65_536];
        while (answer.Length == 0 || answer.GetBuffer()[answer.Length - 1] != '\n')
        {
            var count = 0;
            await Within(async c => count = await stream.ReadAsync(part, c), cancel, patience);
            if (count == 0) throw new IOException("the connection to the machine was lost");
            answer.Write(part, 0, count);
            if (answer.Length > LongestRecord) throw new IOException("the machine says more than can be meant");
        }

        try
        {
            return JsonSerializer.Deserialize<T>(answer.GetBuffer().AsSpan(0, (int)answer.Length), JsonSerializerOptions.Web);
        }
        catch (JsonException e)
        {
            throw new IOException("the machine answers what nobody can read", e);
        }
    }

    private async Task<int> Ask(char what, CancellationToken cancel)
    {
        var number = 0;
        var digits = 0;
        var one = new byte[1];
        // One limit for the whole answer: a machine that says a digit a second is as good as silent.
        await Within(async c =>
        {
            await _stream.WriteAsync(new byte[] { 27, (byte)'.', (byte)what }, c);
            while (true)
            {
                if (await _stream.ReadAsync(one, c) == 0) throw new IOException("the connection to the machine was lost");
                if (one[0] == '\r' && digits > 0) return;
                if (one[0] is < (byte)'0' or > (byte)'9' || ++digits > LongestNumber) throw new IOException("the machine answers what nobody can read");
                number = number * 10 + one[0] - '0';
            }
        }, cancel);
        return number;
    }

    private static async Task Within(Func<CancellationToken, Task> step, CancellationToken cancel, TimeSpan? patience = null)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(patience ?? Patience);
        try
        {
            await step(limit.Token);
        }
        catch (OperationCanceledException e) when (!cancel.IsCancellationRequested)
        {
            throw new IOException("the machine does not answer", e);
        }
        catch (Exception e) when (e is SocketException or ObjectDisposedException or IOException { InnerException: SocketException })
        {
            throw new IOException("the connection to the machine was lost", e as SocketException ?? e.InnerException ?? e);
        }
    }
}

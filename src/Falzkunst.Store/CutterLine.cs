using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;

namespace Falzkunst.Store;

/// <summary>What a cutter says of itself.</summary>
public sealed record CutterLook(string State, int Pen, int[] Holders, bool Mat, double X, double Y, int BufferFree, double DownMm, double TravelMm,
    int Strokes, long Jobs, string Problem);

/// <summary>A stroke that a cutter made: the pen number, and x, y … in HPGL units (0.025 mm), y up.</summary>
public sealed record CutterMark(int Pen, double[] Units);

/// <summary>
/// The line to a cutter on loopback: HPGL with flow control by its device controls on one port, and on the next what a person's hands and eyes would do.
/// Any loss of the line is an <see cref="IOException"/>.
/// </summary>
public sealed class CutterLine : IAsyncDisposable
{
    // Short questions that wait for an answer: gathering them into larger packets costs 40 ms each.
    private readonly TcpClient _plot = new() { NoDelay = true };
    private readonly TcpClient _control = new() { NoDelay = true };
    private StreamReader? _answers;

    public static async Task<CutterLine> Open(int port, CancellationToken cancel)
    {
        var line = new CutterLine();
        try
        {
            await line._plot.ConnectAsync(IPAddress.Loopback, port, cancel);
            await line._control.ConnectAsync(IPAddress.Loopback, port + 1, cancel);
        }
        catch (SocketException e)
        {
            await line.DisposeAsync();
            throw new IOException("the cutter does not answer", e);
        }

        line._answers = new(line._control.GetStream(), Encoding.UTF8);
        return line;
    }

    /// <summary>Sends as much of the text, from a place on, as the cutter has room for, and returns the new place once the cutter has it.</summary>
    public async Task<int> Send(string hpgl, int from, CancellationToken cancel)
    {
        var free = await Free(cancel) - 64;
        if (free <= 0) return from;
        // Only whole commands, so that what is asked in between never splits one.
        var end = Math.Min(hpgl.Length, from + free);
        if (end < hpgl.Length) end = hpgl.LastIndexOf(';', end - 1, end - from) + 1;
        if (end <= from) return from;
        await Guarded(() => _plot.GetStream().WriteAsync(Encoding.ASCII.GetBytes(hpgl[from..end]), cancel).AsTask());
        // The answer comes after what was sent has arrived: until then the cutter would look idle on its other port.
        await Free(cancel);
        return end;
    }

    public Task<CutterLook> Look(CancellationToken cancel) => Do<CutterLook>(new { @do = "look" }, cancel);

    public Task<CutterLook> Put(int holder, int pen, CancellationToken cancel) => Do<CutterLook>(new { @do = "put", holder, pen }, cancel);

    public Task<CutterLook> LoadMat(bool there, CancellationToken cancel) => Do<CutterLook>(new { @do = "mat", there }, cancel);

    public Task<CutterLook> Reset(CancellationToken cancel) => Do<CutterLook>(new { @do = "reset" }, cancel);

    public Task<CutterMark[]> Record(CancellationToken cancel) => Do<CutterMark[]>(new { @do = "record", from = 0 }, cancel);

    public ValueTask DisposeAsync()
    {
        _answers?.Dispose();
        _plot.Dispose();
        _control.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<int> Free(CancellationToken cancel)
    {
        await Guarded(() => _plot.GetStream().WriteAsync("\u001b.B"u8.ToArray(), cancel).AsTask());
        var number = 0;
        var one = new byte[1];
        while (true)
        {
            var count = 0;
            await Guarded(async () => count = await _plot.GetStream().ReadAsync(one, cancel));
            if (count == 0) throw new IOException("the connection to the cutter was lost");
            if (one[0] == '\r') return number;
            number = number * 10 + one[0] - '0';
        }
    }

    private async Task<T> Do<T>(object request, CancellationToken cancel)
    {
        await Guarded(() => _control.GetStream().WriteAsync(Encoding.UTF8.GetBytes(JsonSerializer.Serialize(request) + "\n"), cancel).AsTask());
        string? line = null;
        await Guarded(async () => line = await _answers!.ReadLineAsync(cancel));
        return line is null ? throw new IOException("the connection to the cutter was lost") : JsonSerializer.Deserialize<T>(line, JsonSerializerOptions.Web)!;
    }

    private static async Task Guarded(Func<Task> step)
    {
        try
        {
            await step();
        }
        catch (Exception e) when (e is SocketException or ObjectDisposedException or IOException)
        {
            throw new IOException("the connection to the cutter was lost", e);
        }
    }
}

using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;

namespace Falzkunst.StandIns;

/// <summary>
/// The cutter on the network, on loopback only. One port takes G-code (see <see cref="GcodeTalk"/>) or HPGL with its device controls (ESC.B free bytes,
/// ESC.O status,
/// ESC.K forget). The next port stands for a person's hands and eyes: one JSON object a line, answered by one: {"do":"look"}, {"do":"put","holder":1,"pen":6},
/// {"do":"mat","there":true}, {"do":"fresh"} (a new sheet on the mat), {"do":"pause"}, {"do":"go-on"}, {"do":"reset"}, {"do":"record","from":0},
/// {"do":"fail","afterMm":200,"what":"jam"}
/// (see <see cref="Fault"/>). The printer and the reader of marks are spoken to there as well, see <see cref="Mat"/>.
/// </summary>
public sealed class CutterServer : IAsyncDisposable
{
    private readonly Cutter _cutter;
    private readonly Mat _mat;
    private readonly TcpListener _plot;
    private readonly TcpListener _control;

    /// <param name="port">The port for HPGL; 0 takes two free ones.</param>
    public CutterServer(Cutter cutter, int port)
    {
        _cutter = cutter;
        _mat = new(cutter);
        _plot = new(IPAddress.Loopback, port);
        _plot.Start();
        _control = new(IPAddress.Loopback, port == 0 ? 0 : port + 1);
        _control.Start();
    }

    public int Port => ((IPEndPoint)_plot.LocalEndpoint).Port;

    public int ControlPort => ((IPEndPoint)_control.LocalEndpoint).Port;

    public async Task RunAsync(CancellationToken cancel) => await Task.WhenAll(
        Task.Run(() => _cutter.WorkAsync(cancel), cancel), Accept(_plot, Plot, cancel), Accept(_control, Control, cancel));

    public ValueTask DisposeAsync()
    {
        _plot.Stop();
        _control.Stop();
        return ValueTask.CompletedTask;
    }

    private static async Task Accept(TcpListener listener, Func<TcpClient, CancellationToken, Task> serve, CancellationToken cancel)
    {
        while (true)
        {
            var client = await listener.AcceptTcpClientAsync(cancel);
            client.NoDelay = true;
            _ = Task.Run(async () =>
            {
                try
                {
                    using (client) await serve(client, cancel);
                }
                catch (Exception e) when (e is IOException or SocketException or OperationCanceledException)
                {
                    // The other side is gone, or the stand-in stops.
                }
            }, cancel);
        }
    }

    private async Task Plot(TcpClient client, CancellationToken cancel)
    {
        var stream = client.GetStream();
        var buffer = new byte[4096];
        var escape = 0;
        var isFirst = true;
        var drop = _cutter.Drop;
        _cutter.Greeted();
        while (true)
        {
            var pending = stream.ReadAsync(buffer, cancel).AsTask();
            if (await Task.WhenAny(pending, drop) != pending)
            {
                client.Client.Close(0);
                return;
            }

            var count = await pending;
            if (count == 0) return;
            // Who begins with G-code goes on with it.
            if (isFirst && GcodeTalk.Is((char)buffer[0]))
            {
                await new GcodeTalk(_cutter, stream).Run(Encoding.ASCII.GetString(buffer, 0, count), drop, cancel);
                client.Client.Close(0);
                return;
            }

            isFirst = false;
            var text = new StringBuilder();
            for (var i = 0; i < count; i++)
            {
                var c = (char)buffer[i];
                if (escape == 0 && c == 27) escape = 1;
                else if (escape == 1) escape = c == '.' ? 2 : 0;
                else if (escape == 2)
                {
                    escape = 0;
                    _cutter.Take(text.ToString(), drop);
                    text.Clear();
                    if (c == 'K') _cutter.Forget();
                    var answer = c switch { 'B' => _cutter.BufferFree, 'O' => _cutter.ExtendedStatus, _ => -1 };
                    if (answer < 0) continue;
                    // A machine that was switched off since it was asked has nothing to say: its buffer is empty, and yet nothing is done.
                    if (drop.IsCompleted) break;
                    var said = _cutter.Answer() switch
                    {
                        Fault.Silence => "",
                        Fault.Nonsense => "x?\r",
                        _ => answer.ToString(CultureInfo.InvariantCulture) + "\r",
                    };
                    await stream.WriteAsync(Encoding.ASCII.GetBytes(said), cancel);
                }
                else
                {
                    text.Append(c);
                }
            }

            _cutter.Take(text.ToString(), drop);
        }
    }

    private async Task Control(TcpClient client, CancellationToken cancel)
    {
        using var reader = new StreamReader(client.GetStream(), Encoding.UTF8);
        await using var writer = new StreamWriter(client.GetStream(), new UTF8Encoding(false)) { AutoFlush = true };
        while (await reader.ReadLineAsync(cancel) is { } line)
        {
            object answer;
            try
            {
                using var request = JsonDocument.Parse(line);
                answer = await _mat.Act(request.RootElement, cancel) ?? Act(request.RootElement);
                if (_mat.WasLaid)
                {
                    _cutter.LoadMat(true);
                    _mat.LaidAt = _cutter.Look().Strokes;
                }
            }
            catch (InvalidDataException e)
            {
                answer = new { problem = e.Message };
            }
            catch (Exception e) when (e is JsonException or KeyNotFoundException or InvalidOperationException or FormatException)
            {
                answer = new { problem = "not understood" };
            }

            await writer.WriteLineAsync(JsonSerializer.Serialize(answer, answer.GetType(), JsonSerializerOptions.Web).AsMemory(), cancel);
        }
    }

    private object Act(JsonElement request)
    {
        switch (request.GetProperty("do").GetString())
        {
            case "look":
                break;
            case "put":
                if (!_cutter.Put(request.GetProperty("holder").GetInt32(), request.GetProperty("pen").GetInt32())) return new
                {
                    problem =
                    "there is no such holder",
                };
                break;
            case "mat":
                _cutter.LoadMat(request.GetProperty("there").GetBoolean());
                break;
            case "fresh":
                _cutter.LayFresh();
                break;
            case "pause":
                _cutter.Pause(true);
                break;
            case "go-on":
                _cutter.Pause(false);
                break;
            case "reset":
                _cutter.Reset();
                break;
            case "record":
                return _cutter.Record(request.TryGetProperty("from", out var from) ? from.GetInt32() : 0);
            case "fail":
                if (!Enum.TryParse<Fault>(request.TryGetProperty("what", out var what) ? what.GetString()!.Replace("-", "", StringComparison.Ordinal) : "cable",
                    true, out var fault)) return new { problem = "there is no such fault" };
                _cutter.FailAfter(request.GetProperty("afterMm").GetDouble(), fault);
                break;
            default:
                return new { problem = "not understood" };
        }

        return _cutter.Look();
    }
}

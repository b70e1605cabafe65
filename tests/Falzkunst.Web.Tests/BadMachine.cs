using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Falzkunst.Web.Tests;

/// <summary>A machine as one would not want it, of several kinds.</summary>
public sealed class BadMachine : IAsyncDisposable
{
    private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
    private readonly CancellationTokenSource _stop = new();
    private readonly string _kind;

    public BadMachine(string kind)
    {
        _kind = kind;
        _listener.Start();
        Port = ((IPEndPoint)_listener.LocalEndpoint).Port;
        if (kind == "nobody") _listener.Stop();
        else _ = Serve();
    }

    public int Port { get; }

    public async ValueTask DisposeAsync()
    {
        await _stop.CancelAsync();
        _listener.Stop();
        _stop.Dispose();
    }

    private async Task Serve()
    {
        try
        {
            while (true) _ = Answer(await _listener.AcceptTcpClientAsync(_stop.Token));
        }
        catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException)
        {
            // The test is over.
        }
    }

    private async Task Answer(TcpClient client)
    {
        using var _ = client;
        try
        {
            var stream = client.GetStream();
            var buffer = new byte[8192];
            var got = false;
            while (await stream.ReadAsync(buffer, _stop.Token) is > 0 and var count)
            {
                var asked = Encoding.ASCII.GetString(buffer, 0, count);
                if (_kind == "silent") continue;
                if (_kind == "hangs up") return;
                if (_kind == "nonsense") await stream.WriteAsync("well, hello\r"u8.ToArray(), _stop.Token);
                if (_kind == "digits without end") await stream.WriteAsync(Encoding.ASCII.GetBytes(new string('1', 4000)), _stop.Token);
                if (_kind == "a digit a second")
                {
                    for (var i = 0; i < 20; i++)
                    {
                        await stream.WriteAsync("1"u8.ToArray(), _stop.Token);
                        await Task.Delay(1000, _stop.Token);
                    }
                }

                if (_kind is not ("failed" or "stuck")) continue;
                // Fine until it gets work.
                got |= asked.Contains("PD", StringComparison.Ordinal);
                for (var i = asked.IndexOf('\u001b'); i >= 0 && i + 2 < asked.Length; i = asked.IndexOf('\u001b', i + 1))
                {
                    if (asked[i + 2] == 'B') await stream.WriteAsync("9000\r"u8.ToArray(), _stop.Token);
                    if (asked[i + 2] == 'O')
                        await stream.WriteAsync(Encoding.ASCII.GetBytes($"{(!got ? 8 : _kind == "failed" ? 32 : 0)}\r"), _stop.Token);
                }
            }
        }
        catch (Exception e) when (e is OperationCanceledException or IOException or ObjectDisposedException)
        {
            // The other side is gone.
        }
    }
}

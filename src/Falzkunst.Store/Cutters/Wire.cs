using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;

namespace Falzkunst.Store.Cutters;

/// <summary>Waiting on a connection to a machine, and asking it on another.</summary>
internal static class Wire
{
    /// <summary>The longest wait for any one answer. Short enough that a stop is obeyed within two seconds though the machine is silent.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(1.5);

    // What a machine sends in one answer, at most: a hundred thousand strokes are some 20 MB.
    private const int LongestRecord = 200_000_000;

    /// <summary>Asks on a line of its own, so that what was done can be asked even after the other one was lost.</summary>
    public static async Task<T?> Told<T>(int port, object request, TimeSpan patience, CancellationToken cancel)
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

    /// <summary>Takes a step on a connection within a limit.</summary>
    /// <exception cref="IOException">It took longer, or the connection was lost; the message is a part of a sentence.</exception>
    public static async Task Within(Func<CancellationToken, Task> step, CancellationToken cancel, TimeSpan? patience = null)
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

using System.Collections.Concurrent;
using Microsoft.Extensions.Hosting;
using Npgsql;

namespace Falzkunst.Store;

/// <summary>
/// Tells when a run, a layout or what is printed changed, so that nobody has to look again and again: the database says so itself (triggers, NOTIFY), and
/// one connection listens for all. While that connection is down everybody looks once a second.
/// </summary>
public sealed class Signals(string connection) : BackgroundService
{
    internal const string Channel = "falzkunst";

    /// <summary>Under this name, any run.</summary>
    public static readonly Guid AnyRun = Guid.Empty;

    private readonly ConcurrentDictionary<Guid, TaskCompletionSource> _waiting = [];

    /// <summary>Ends with the next change of a thing. Ask for it before looking, and wait for it after: then no change is missed.</summary>
    public Task Next(Guid id) => _waiting.GetOrAdd(id, _ => new(TaskCreationOptions.RunContinuationsAsynchronously)).Task;

    /// <summary>Waits for a change that was asked for by <see cref="Next"/>, but no longer than that.</summary>
    public static async Task Wait(Task next, TimeSpan atMost, CancellationToken cancel)
    {
        try
        {
            await next.WaitAsync(atMost, cancel);
        }
        catch (TimeoutException)
        {
            // Look all the same.
        }
    }

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        while (!stopping.IsCancellationRequested)
        {
            try
            {
                var ownLine = new NpgsqlConnectionStringBuilder(connection) { Pooling = false, KeepAlive = 20 };
                await using var listening = new NpgsqlConnection(ownLine.ConnectionString);
                listening.Notification += (_, n) => Heard(n.Payload);
                await listening.OpenAsync(stopping);
                await using (var listen = new NpgsqlCommand($"LISTEN {Channel}", listening)) await listen.ExecuteNonQueryAsync(stopping);
                // What changed while nobody listened.
                Everybody();
                while (true) await listening.WaitAsync(stopping);
            }
            catch (OperationCanceledException) when (stopping.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e) when (Database.IsDown(e))
            {
                Everybody();
                await Task.Delay(TimeSpan.FromSeconds(1), stopping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    private void Heard(string payload)
    {
        // "run 0198…", "layout 0198…"
        var at = payload.IndexOf(' ', StringComparison.Ordinal);
        if (at > 0 && Guid.TryParse(payload.AsSpan(at + 1), out var id)) Tell(id);
        if (payload.StartsWith("run ", StringComparison.Ordinal)) Tell(AnyRun);
    }

    private void Tell(Guid id)
    {
        if (_waiting.TryRemove(id, out var waiting)) waiting.TrySetResult();
    }

    private void Everybody()
    {
        foreach (var id in _waiting.Keys) Tell(id);
    }
}

/// <summary>What can be said of any database.</summary>
public static class Database
{
    /// <summary>Whether something failed because the database does not answer, and not because of what it was asked.</summary>
    public static bool IsDown(Exception? e)
    {
        for (; e is not null; e = e.InnerException)
        {
            if (e is NpgsqlException and not PostgresException || e is System.Net.Sockets.SocketException
                || e is PostgresException { SqlState: "57P01" or "57P02" or "57P03" or "55000" or "53300" or "3D000" }) return true;
        }

        return false;
    }

    /// <summary>Whether something failed because there is no room left, on the disk of the database or on our own.</summary>
    public static bool IsFull(Exception? e)
    {
        const int noSpace = 28;
        for (; e is not null; e = e.InnerException)
            if (e is PostgresException { SqlState: PostgresErrorCodes.DiskFull } || (e is IOException && (e.HResult & 0xFFFF) == noSpace)) return true;
        return false;
    }

    /// <summary>Whether something failed because it is there already.</summary>
    public static bool IsTaken(Exception? e) => e is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation }
        || (e?.InnerException is { } inner && IsTaken(inner));
}

using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using Falzkunst.Store;

namespace Falzkunst.Web;

/// <summary>Lets a page see how something goes on, as server-sent events: it is looked at when the database says that it changed.</summary>
public sealed class Watch(IServiceScopeFactory scopes, IHttpContextAccessor context, Signals signals, IHostApplicationLifetime lifetime)
{
    // A change is told by the database; this only covers for a signal that was lost.
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(5);

    /// <summary>Sends "progress" while there is something to show, and "done" when it is gone, over, or other than what the page shows.</summary>
    /// <param name="show">What to show; null when the page is to be fetched afresh.</param>
    public async IAsyncEnumerable<SseItem<string>> While<T>(Guid id, Func<FalzkunstContext, Task<T?>> find, Func<T, string?> show,
        [EnumeratorCancellation] CancellationToken cancel)
        where T : class
    {
        var who = context.HttpContext!.User;
        var studio = context.HttpContext.RequestServices.GetRequiredService<FalzkunstContext>().StudioId;
        // The application does not wait for those who look on.
        using var either = CancellationTokenSource.CreateLinkedTokenSource(cancel, lifetime.ApplicationStopping);
        var last = "";
        while (!either.IsCancellationRequested)
        {
            var next = signals.Next(id);
            T? row = null;
            bool isDown = false, isOut = false;
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
                db.StudioId = studio;
                // Whoever is signed out meanwhile sees no more of it.
                isOut = await SignInCheck.Of(who, scope.ServiceProvider, either.Token) is null;
                row = isOut ? null : await find(db);
            }
            catch (Exception e) when (Database.IsDown(e) || e is InvalidOperationException)
            {
                isDown = true;
            }
            catch (OperationCanceledException)
            {
                yield break;
            }

            var html = row is null ? null : show(row);
            if (html is null && !isDown)
            {
                yield return new("done", "done");
                yield break;
            }

            if (html is not null && html != last) yield return new(last = html, "progress");
            await Signals.Wait(next, isDown ? TimeSpan.FromSeconds(1) : Longest, either.Token).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }
}

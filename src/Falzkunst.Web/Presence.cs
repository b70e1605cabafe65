using System.Collections.Concurrent;

namespace Falzkunst.Web;

/// <summary>Who has had a docket in hand just now. In memory: a restart forgets it, and nothing hangs on it.</summary>
public sealed class Presence(TimeProvider clock)
{
    private static readonly TimeSpan Lasts = TimeSpan.FromMinutes(3);

    private readonly ConcurrentDictionary<(Guid Docket, string Name), DateTimeOffset> _seen = new();

    /// <summary>Notes that somebody looks at a docket, and says who else did within the last minutes.</summary>
    public IReadOnlyList<string> Here(Guid docket, string name)
    {
        var now = clock.GetUtcNow();
        _seen[(docket, name)] = now;
        foreach (var (key, at) in _seen)
            if (now - at > Lasts) _seen.TryRemove(new(key, at));
        return [.. _seen.Keys.Where(k => k.Docket == docket && k.Name != name).Select(k => k.Name).Order(StringComparer.CurrentCulture)];
    }
}

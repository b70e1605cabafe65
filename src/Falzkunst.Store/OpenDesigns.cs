using Falzkunst.Core.Cards;

namespace Falzkunst.Store;

/// <summary>A revision in memory: its design, its document as text, and the blobs that it names.</summary>
public sealed record Opened(Design Design, byte[] Text, IReadOnlySet<string> Blobs, Guid StudioId)
{
    /// <summary>Roughly what it holds in memory if it shared nothing with others, which it mostly does.</summary>
    internal long Weight { get; } = 2L * Text.Length
        + Design.AllPieces.Sum(p => 400 + 130L * Nodes(p.Outline) + p.AllLines.Sum(l => 300 + 130L * Nodes(l.Path))
        + p.AllArtwork.Sum(a => (long)(a.Picture?.Bytes.Length ?? 0)))
        + Design.AllLoose.Sum(l => 300 + 130L * Nodes(l.Path)) + Design.AllLooseArtwork.Sum(a => (long)(a.Picture?.Bytes.Length ?? 0));

    private static long Nodes(VectorPath path) => path.Subpaths.Sum(s => s.Segments.Length + 1L);
}

/// <summary>Revisions that are kept in memory, bounded by their weight: the one that was not asked for longest goes first. Safe for many at once.</summary>
public sealed class OpenDesigns(long mostBytes = 192_000_000)
{
    private readonly Dictionary<Guid, LinkedListNode<(Guid Id, Opened Opened)>> _byId = [];
    private readonly LinkedList<(Guid Id, Opened Opened)> _byUse = new();
    private readonly Lock _lock = new();

    /// <summary>What is held, in bytes by <see cref="Opened.Weight"/>.</summary>
    public long Bytes { get; private set; }

    public int Count
    {
        get
        {
            lock (_lock) return _byId.Count;
        }
    }

    public Opened? Find(Guid id)
    {
        lock (_lock)
        {
            if (!_byId.TryGetValue(id, out var node)) return null;
            _byUse.Remove(node);
            _byUse.AddFirst(node);
            return node.Value.Opened;
        }
    }

    public void Keep(Guid id, Opened opened)
    {
        lock (_lock)
        {
            if (_byId.ContainsKey(id)) return;
            _byId[id] = _byUse.AddFirst((id, opened));
            Bytes += opened.Weight;
            // The newest stays, however large it is: somebody works on it.
            while (Bytes > mostBytes && _byUse.Count > 1)
            {
                var (gone, its) = _byUse.Last!.Value;
                _byUse.RemoveLast();
                _byId.Remove(gone);
                Bytes -= its.Weight;
            }
        }
    }

    public void Forget(Guid id)
    {
        lock (_lock)
        {
            if (!_byId.Remove(id, out var node)) return;
            _byUse.Remove(node);
            Bytes -= node.Value.Opened.Weight;
        }
    }
}

namespace Falzkunst.Core.Cards;

/// <summary>What two people do to one card at the same time: what can be kept of both, because neither touches what the other changed.</summary>
public static class Meanwhile
{
    /// <summary>Stands for all of a card but its pieces, lines, pictures and plies: its size, print settings, looks, sources.</summary>
    private const string TheCard = "card";

    /// <summary>Whether an edit does to a card that was changed meanwhile just what it would have done to the card that was seen. Linear in both.</summary>
    public static bool IsApart(Design seen, Design now, Edit edit)
    {
        if (edit.Refusal(seen) is not null || edit.Refusal(now) is not null) return false;
        HashSet<string> wanted = Touched(seen, edit.Make(seen)), theirs = Touched(seen, now);
        return !wanted.Overlaps(theirs) && Touched(now, edit.Make(now)).SetEquals(wanted);
    }

    /// <summary>
    /// The card without one of its changes, all later ones kept; null where they build on it. A piece that the change made goes, one that it took away comes
    /// back, all others that it touched are as they were. Linear in the things.
    /// </summary>
    /// <param name="before">The card when the change was made.</param>
    /// <param name="after">The card just after it.</param>
    public static Design? Without(Design before, Design after, Design now)
    {
        HashSet<string> its = Touched(before, after), later = Touched(after, now);
        HashSet<string> known = [.. Ids(before)], made = [.. Ids(after).Where(id => !known.Contains(id))];
        // What came later may lie on a ply of that change, or be held by a piece of it.
        if (its.Overlaps(later) || made.Overlaps(later) || !IsInOrder(before, after)
            || now.AllPieces.Any(p => !made.Contains(p.Id)
                && (made.Contains(p.PlyId) || (p.Held is { } held && made.Contains(held.To.Split('#')[0]))))) return null;
        var rest = its.Contains(TheCard) ? before : now;
        var next = rest with
        {
            LastId = now.LastId,
            AllPlies = Merged(before.AllPlies, after.AllPlies, now.AllPlies, y => y.Id),
            AllPieces = MergedPieces(before, after, now),
            AllLoose = Merged(before.AllLoose, after.AllLoose, now.AllLoose, l => l.Id),
            AllLooseArtwork = Merged(before.AllLooseArtwork, after.AllLooseArtwork, now.AllLooseArtwork, a => a.Id),
        };
        return next.Check() is null ? next : null;
    }

    /// <summary>The ids of what was there and is other or gone.</summary>
    private static HashSet<string> Touched(Design before, Design after)
    {
        var touched = new HashSet<string>(StringComparer.Ordinal);
        Compare(before.AllPlies, after.AllPlies, y => y.Id);
        if (before.AllPieces != after.AllPieces || before.AllLoose != after.AllLoose || before.AllLooseArtwork != after.AllLooseArtwork)
        {
            Compare(before.AllPieces, after.AllPieces, p => p.Id, (a, b) => ReferenceEquals(a, b) || Shell(a).Equals(Shell(b)));
            Compare(Lines(before), Lines(after), l => l.Line.Id);
            Compare(Pictures(before), Pictures(after), a => a.Art.Id);
        }

        if (!Rest(before).Equals(Rest(after))) touched.Add(TheCard);
        return touched;

        void Compare<T>(ImmutableArray<T> was, ImmutableArray<T> is_, Func<T, string> id, Func<T, T, bool>? same = null)
        {
            if (was == is_) return;
            var there = is_.ToDictionary(id, StringComparer.Ordinal);
            foreach (var one in was)
                if (!there.TryGetValue(id(one), out var other) || !(same?.Invoke(one, other) ?? Equals(one, other))) touched.Add(id(one));
        }

        // A line is touched with what carries it, and the way that it folds.
        static ImmutableArray<(Line Line, string? By, FoldSide? Side)> Lines(Design d) => [.. d.AllPieces.SelectMany(p => p.AllLines.Select(l =>
            (l, (string?)p.Id, p.Folds.FirstOrDefault(f => f.LineId == l.Id)?.Side))), .. d.AllLoose.Select(l => (l, (string?)null, (FoldSide?)null))];

        static ImmutableArray<(Artwork Art, string? By)> Pictures(Design d) =>
            [.. d.AllPieces.SelectMany(p => p.AllArtwork.Select(a => (a, (string?)p.Id))), .. d.AllLooseArtwork.Select(a => (a, (string?)null))];

        static Design Rest(Design d) => d with { LastId = 0, AllPieces = [], AllPlies = [], AllLoose = [], AllLooseArtwork = [] };
    }

    /// <summary>A piece without what it carries.</summary>
    private static Piece Shell(Piece p) => p with { AllLines = [], AllArtwork = [], Folds = [] };

    private static ImmutableArray<Piece> MergedPieces(Design before, Design after, Design now)
    {
        Dictionary<string, Piece> was = before.AllPieces.ToDictionary(p => p.Id), then = after.AllPieces.ToDictionary(p => p.Id);
        return Merged(before.AllPieces, after.AllPieces, now.AllPieces, p => p.Id, Back);

        Piece Back(Piece p)
        {
            if (!was.TryGetValue(p.Id, out var old) || !then.TryGetValue(p.Id, out var made) || ReferenceEquals(old, made)) return p;
            return (Shell(old).Equals(Shell(made)) ? p : old) with
            {
                AllLines = Merged(old.AllLines, made.AllLines, p.AllLines, l => l.Id),
                AllArtwork = Merged(old.AllArtwork, made.AllArtwork, p.AllArtwork, a => a.Id),
                Folds = Merged(old.Folds, made.Folds, p.Folds, f => f.LineId),
            };
        }
    }

    private static IEnumerable<string> Ids(Design d) =>
    [
        .. d.AllPieces.SelectMany(p => p.AllLines.Select(l => l.Id).Concat(p.AllArtwork.Select(a => a.Id)).Append(p.Id)),
        .. d.AllPlies.Select(y => y.Id), .. d.AllLoose.Select(l => l.Id), .. d.AllLooseArtwork.Select(a => a.Id),
    ];

    /// <summary>Whether what stays lies above one another as before.</summary>
    private static bool IsInOrder(Design before, Design after)
    {
        return Same(before.AllPieces, after.AllPieces, p => p.Id) && Same(before.AllPlies, after.AllPlies, y => y.Id);

        static bool Same<T>(ImmutableArray<T> was, ImmutableArray<T> is_, Func<T, string> id)
        {
            HashSet<string> old = [.. was.Select(id)], now = [.. is_.Select(id)];
            return was.Select(id).Where(now.Contains).SequenceEqual(is_.Select(id).Where(old.Contains));
        }
    }

    /// <param name="back">How one that is there before, after and now is put back; as it was, where it was changed.</param>
    private static ImmutableArray<T> Merged<T>(ImmutableArray<T> before, ImmutableArray<T> after, ImmutableArray<T> now, Func<T, string> id,
        Func<T, T>? back = null)
    {
        if (before == after) return now;
        Dictionary<string, T> was = before.ToDictionary(id), then = after.ToDictionary(id);
        back ??= x => was.TryGetValue(id(x), out var old) && then.TryGetValue(id(x), out var made) && !Equals(old, made) ? old : x;
        var merged = now.Where(x => was.ContainsKey(id(x)) || !then.ContainsKey(id(x))).Select(back).ToList();
        for (var i = 0; i < before.Length; i++)
            if (!then.ContainsKey(id(before[i]))) merged.Insert(Math.Min(i, merged.Count), before[i]);
        return [.. merged];
    }
}

/// <summary>Takes back one change of a card, and keeps those that others made since.</summary>
/// <param name="Before">The card when that change was made.</param>
/// <param name="After">The card just after it.</param>
/// <param name="What">What that change was, in words.</param>
public sealed record TakeBack(Design Before, Design After, string What) : Edit
{
    public override string Describe(Design before) => $"Take back: {What}";

    public override string? Refusal(Design before) => Meanwhile.Without(Before, After, before) is null
        ? $"“{What}” can't be taken back by itself: what was done since builds on it." : null;

    public override Design Apply(Design design) => Meanwhile.Without(Before, After, design) ?? design;
}

using System.Text.Json;
using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Documents;

/// <summary>Designs as they were written up to version 0.3: all in the card's coordinates, lines and pictures beside the pieces, holes in parallel
/// lists.</summary>
internal static class SchemaOne
{
    private sealed record DesignOne
    {
        public required double WidthMm { get; init; }
        public required double HeightMm { get; init; }
        public required ScaleFacts Scale { get; init; }
        public ImmutableArray<Ply> Plies { get; init; } = [];
        public ImmutableArray<PieceOne> Pieces { get; init; } = [];
        public ImmutableArray<LineOne> Lines { get; init; } = [];
        public ImmutableArray<ArtworkOne> Artwork { get; init; } = [];
        public ImmutableArray<LookOne> Looks { get; init; } = [];
        public ImmutableArray<ReadingNote> Notes { get; init; } = [];
        public ImmutableArray<PartOne> LeftOut { get; init; } = [];
        public string Producer { get; init; } = "";
        public AppliedRules? Rules { get; init; }
        public TracingFacts? Tracing { get; init; }
    }

    private sealed record HoleOne(string Look, Ink Ink);

    private sealed record LookOne(string Key, Colour? Fill, Colour? Stroke, double WidthMm, bool Dashed, string Layer, bool Closed);

    private sealed record PieceOne
    {
        public required string Id { get; init; }
        public required string Label { get; init; }
        public required string PlyId { get; init; }
        public required VectorPath Outline { get; init; }
        public required Colour Colour { get; init; }
        public required string Look { get; init; }
        public required Ink Ink { get; init; }
        public required int Order { get; init; }
        public required string Why { get; init; }
        public Operation OuterOperation { get; init; } = Operation.Cut;
        public Operation HoleOperation { get; init; } = Operation.Cut;
        public ImmutableArray<HoleOne> Holes { get; init; } = [];
        public string? StockId { get; init; }
    }

    private sealed record LineOne
    {
        public required string Id { get; init; }
        public required VectorPath Path { get; init; }
        public required Operation Operation { get; init; }
        public required string Look { get; init; }
        public required Ink Ink { get; init; }
        public required int Order { get; init; }
        public required string Why { get; init; }
        public string Label { get; init; } = "";
        public Face Face { get; init; }
        public FoldSide FoldSide { get; init; }
        public string? CarriedBy { get; init; }
    }

    private sealed record ArtworkOne(string Id, string MediaType, [property: JsonPropertyName("bytes")] Picture Picture, Affine Place, double Opacity,
        int Order, string? CarriedBy = null);

    private sealed record PartOne(string Id, string Label, ImmutableArray<Ply> Plies, ImmutableArray<PieceOne> Pieces, ImmutableArray<LineOne> Lines,
        ImmutableArray<ArtworkOne> Artwork);

    /// <summary>Reads a design of schema 1 as one of today. Ids that two things had, which that version could give, are told apart; everything else is the
    /// reader's to check.</summary>
    /// <exception cref="JsonException">It is none.</exception>
    public static Design Read(ReadOnlySpan<byte> file, JsonSerializerOptions options)
    {
        var one = JsonSerializer.Deserialize<DesignOne>(file, options) ?? throw new JsonException();
        if (one.LeftOut.IsDefault || one.LeftOut
            .Any(o => o is null || o.Plies.IsDefault || o.Pieces.IsDefault || o.Lines.IsDefault || o.Artwork.IsDefault)) throw new JsonException();
        return new Upgrade(one).Run();
    }

    private sealed class Upgrade(DesignOne one)
    {
        private const string SourceId = "s1";
        private readonly HashSet<string> _taken = new(StringComparer.Ordinal) { SourceId };
        private readonly Dictionary<string, string> _looks = new(StringComparer.Ordinal);
        private int _last = 1;

        public Design Run()
        {
            var all = one.LeftOut.Select(o => (Part: (string?)o.Id, o.Plies, o.Pieces, o.Lines, o.Artwork))
                .Prepend((null, one.Plies, one.Pieces, one.Lines, one.Artwork)).ToList();
            foreach (var (part, plies, pieces, lines, artwork) in all)
                foreach (var id in plies.Select(y => y.Id).Concat(pieces.Select(p => p.Id)).Concat(lines.Select(l => l.Id)).Concat(artwork.Select(a => a.Id))
                    .Append(part))
                    if (id is not null && DesignCheck.Number(id) is { } n) _last = Math.Max(_last, n);
            var looks = new List<Look>();
            foreach (var l in one.Looks)
            {
                var look = new Look(l.Fill, l.Stroke, Length.FromMm(l.WidthMm), l.Dashed, l.Layer, l.Closed);
                _looks[l.Key] = look.Key;
                if (looks.TrueForAll(k => k.Key != look.Key)) looks.Add(look);
            }

            // A ply that was left out with its last piece is there again, at its place on top.
            var allPlies = new List<Ply>();
            foreach (var (part, plies, _, _, _) in all)
                foreach (var ply in plies)
                    if (part is null || allPlies.TrueForAll(y => y.Id != ply.Id)) allPlies.Add(ply);
            foreach (var ply in allPlies.DistinctBy(y => y.Id)) _taken.Add(ply.Id);
            var made = new List<(PieceOne One, string? Part, string Id, List<Line> Lines, List<Artwork> Artwork)>();
            foreach (var (part, _, pieces, _, _) in all)
                foreach (var p in pieces) made.Add((p, part, part is null ? Once(p.Id) : Fresh(p.Id, "p"), [], []));
            var loose = new List<Line>();
            var looseArtwork = new List<Artwork>();
            var sides = new Dictionary<string, FoldSide>(StringComparer.Ordinal);
            foreach (var (part, _, _, lines, artwork) in all)
            {
                foreach (var l in lines)
                {
                    var (at, inside) = Carrier(l.CarriedBy, part);
                    // A hole that became a line was once given the id of another.
                    var id = part is null && !l.Id.Contains("-h", StringComparison.Ordinal) ? Once(l.Id) : Fresh(l.Id, "l");
                    (at?.Lines ?? loose).Add(new()
                    {
                        Id = id,
                        Path = l.Path,
                        Operation = l.Operation,
                        Label = l.Label,
                        Face = l.Face,
                        Pen = l.Ink.Stroke?.Colour,
                        Origin = From(l.Look, l.Ink, l.Order, l.Why) with { IsHole = l.Id.Contains("-h", StringComparison.Ordinal) },
                        LeftOut = inside ? null : part,
                    });
                    if (l.FoldSide == FoldSide.Mountain) sides[id] = l.FoldSide;
                }

                foreach (var a in artwork)
                {
                    var (at, inside) = Carrier(a.CarriedBy, part);
                    (at?.Artwork ?? looseArtwork).Add(new(part is null ? Once(a.Id)
                        : Fresh(a.Id, "a"), a.Picture, a.Place, a.Opacity)
                    {
                        Origin = From("", Ink.None, a.Order, "a picture in the file"),
                        LeftOut = inside
                        ? null : part,
                    });
                }
            }

            var pieces2 = (one.LeftOut.IsEmpty ? made.AsEnumerable()
                : made.OrderBy(m => m.One.Order).ThenBy(m => m.One.Id.Length).ThenBy(m => m.One.Id, StringComparer.Ordinal))
                .Select(m => PieceOf(m.One, m.Part, m.Id, m.Lines, m.Artwork, sides)).ToImmutableArray();
            return new()
            {
                LastId = _last,
                Width = Length.FromMm(one.WidthMm),
                Height = Length.FromMm(one.HeightMm),
                Scale = one.Scale,
                AllPlies = Remove.InUse([.. allPlies], pieces2),
                AllPieces = pieces2,
                AllLoose = [.. loose],
                AllLooseArtwork = [.. looseArtwork],
                Looks = [.. looks],
                Sources = [new(SourceId, "") { Producer = one.Producer, Tracing = one.Tracing }],
                Notes = one.Notes,
                Rules = one.Rules is { Before.IsDefault: false } rules
                    ? rules with { Before = [.. rules.Before.Select(b => b with { Look = _looks.GetValueOrDefault(b.Look, b.Look) })] } : one.Rules,
            };

            ((PieceOne One, string? Part, string Id, List<Line> Lines, List<Artwork> Artwork)? At, bool Inside) Carrier(string? id, string? part)
            {
                if (id is null) return (null, false);
                // What was left out alone lies in its piece, wherever that is now.
                var at = made.FindIndex(m => m.One.Id == id && m.Part == part);
                if (at >= 0) return (made[at], true);
                at = part is null ? -1 : made.FindIndex(m => m.One.Id == id);
                return at >= 0 ? (made[at], false) : part is null ? throw new JsonException() : (null, false);
            }
        }

        private Piece PieceOf(PieceOne p, string? part, string id, List<Line> lines, List<Artwork> artwork, Dictionary<string, FoldSide> sides)
        {
            if (p.Holes.Length > 0 && p.Holes.Length != p.Outline.Subpaths.Length - 1) throw new JsonException();
            var piece = new Piece
            {
                Id = id,
                Label = p.Label,
                PlyId = p.PlyId,
                StockId = p.StockId,
                Colour = p.Colour,
                Shape = new Drawn(p.Outline),
                Edges = [.. p.Outline.Subpaths.Select((_, i) => new Edge(i == 0 ? p.OuterOperation : p.HoleOperation,
                    i > 0 && p.Holes.Length > 0 ? From(p.Holes[i - 1].Look, p.Holes[i - 1].Ink, p.Order,
                        "a closed outline inside a piece") with { IsHole = true, } : null))],
                AllLines = [.. lines],
                AllArtwork = [.. artwork],
                Folds = [.. lines.Where(l => sides.ContainsKey(l.Id)).Select(l => new Fold(l.Id, sides[l.Id]))],
                Origin = From(p.Look, p.Ink, p.Order, p.Why),
                LeftOut = part,
            };
            return p.Outline.IsEmpty ? piece : Carrying.WithFolds(piece);
        }

        private Origin From(string look, Ink ink, int order, string why) => new(_looks.GetValueOrDefault(look, look), ink, order, why) { Source = SourceId };

        private string Once(string id)
        {
            _taken.Add(id);
            return id;
        }

        private string Fresh(string id, string letter)
        {
            if (_taken.Add(id)) return id;
            _last++;
            return string.Create(CultureInfo.InvariantCulture, $"{letter}{_last}");
        }
    }
}

using System.Collections.Immutable;
using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Looks;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Shapes;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>What is printed on pieces: patterns and pictures that fill them, and the ink of printed lines.</summary>
public sealed partial class BuildModel
{
    /// <summary>The dashes that are offered by name; in line widths.</summary>
    public static IReadOnlyList<(string Name, double[] Dashes)> Dashes { get; } = [("unbroken", []), ("dashed", [4, 3]), ("dotted", [0.01, 2])];

    /// <summary>The tiles that were kept; only where a piece is chosen.</summary>
    public IReadOnlyList<KeptThing> Tiles { get; private set; } = [];

    /// <summary>The pattern that fills what is chosen, or that would be offered.</summary>
    public Pattern PatternNow => (Print?.Artwork ?? Piece?.Artwork.FirstOrDefault(a => a.Pattern is not null))?.Pattern
        ?? new(PatternKind.Dots, Colour.FromHex("#0f5c6b"), Colour.FromHex("#fbf8f2"));

    /// <summary>The pieces that what is offered would fill.</summary>
    public string FilledIds => Print?.By?.Id ?? string.Join(',', ChosenPieces.Select(p => p.Id));

    /// <summary>The perforated lines that are chosen, where all that is chosen are such.</summary>
    public IReadOnlyList<LaidLine> Perforated => Lines.Count > 0 && Lines.All(l => l.Operation == Operation.Perforate) ? Lines : [];

    /// <summary>The printed lines that are chosen, where all that is chosen are such.</summary>
    public IReadOnlyList<LaidLine> PrintedLines => Lines.Count > 0 && Lines.All(l => l.Operation == Operation.Print) ? Lines : [];

    public static string NameOf(Artwork art) => art.Pattern is { } pattern ? Web.Words.Big(pattern.Word) : art.IsTiled ? "Tiled picture" : "Picture";

    /// <summary>Fills pieces with a pattern.</summary>
    /// <param name="bare">Whether the paper is left as it is under it.</param>
    public Task<IActionResult> OnPostPatternAsync(Guid basedOn, string? ids, PatternKind kind, string? figure, string? ground, bool bare, string? tile,
        CancellationToken cancel)
    {
        if (!ReadIfTyped(tile, out var width, out var error)) return Say(error, cancel);
        return ReadColour(figure) is not { } ink || ReadColour(ground) is not { } under ? Say("A colour is written #rrggbb.", cancel)
            : Change(basedOn, new FillWith(Named(ids), new(kind, ink, bare ? null : under), null, false, width), cancel);
    }

    /// <summary>Fills pieces with a picture that is brought, once or as a tile; or with a tile that was kept.</summary>
    public async Task<IActionResult> OnPostPictureAsync(Guid basedOn, string? ids, IFormFile? file, Guid? kept, bool once, bool asOne,
        string? tile, CancellationToken cancel)
    {
        if (!ReadIfTyped(tile, out var width, out var error)) return await Say(error, cancel);
        try
        {
            if (kept is { } id)
            {
                return await Parts.OnShelf.Take(id, cancel) is var (_, design) && design.Artwork.FirstOrDefault()?.Artwork is { } own
                    ? await Change(basedOn, new FillWith(Named(ids), own.Pattern, own.Picture, true, width ?? own.TileWidth), cancel)
                    : await Say("That is not on the shelf any more.", cancel);
            }

            return await Brought(file, picture => Change(basedOn, new FillWith(Named(ids), null, picture, !once, width) { AsOne = asOne }, cancel), cancel);
        }
        catch (UnreadableFileException e)
        {
            return await Say($"It can't be taken: {e.Message}. Nothing was changed.", cancel);
        }
    }

    /// <summary>Puts a picture that is brought in the place of another.</summary>
    public Task<IActionResult> OnPostReplaceAsync(Guid basedOn, string? id, IFormFile? file, CancellationToken cancel) =>
        Brought(file, picture => Change(basedOn, new ReplacePicture(id ?? "", picture), cancel), cancel);

    /// <summary>Prints a picture on these pieces, where it lies.</summary>
    public Task<IActionResult> OnPostPrintOnAsync(Guid basedOn, string? id, string[]? on, CancellationToken cancel) =>
        Change(basedOn, new PrintOn(id ?? "", [.. on ?? []]), cancel);

    private async Task<IActionResult> Brought(IFormFile? file, Func<Picture, Task<IActionResult>> then, CancellationToken cancel)
    {
        if (file is null || file.Length == 0) return await Say("Choose a picture first: PNG, JPEG or WebP.", cancel);
        if (file.Length > ReadingLimits.Default.FileBytes) return await Say("That picture is too large; nothing was changed.", cancel);
        return await then(new([.. (await DocketParts.Brought([file], cancel))[0].Bytes]));
    }

    /// <summary>Keeps what fills a piece, for any docket.</summary>
    public async Task<IActionResult> OnPostKeepTileAsync(string? id, string? name, CancellationToken cancel) =>
        Design?.Artwork.FirstOrDefault(a => a.Id == id)?.Artwork is { } art
            ? await Say(await Parts.OnShelf.KeepTile(art, name ?? "", cancel) ?? $"“{name?.Trim()}” is kept; any piece can be filled with it.", cancel)
            : await Say("The picture is gone.", cancel);

    /// <summary>Makes one printed picture of several pieces, on one outline.</summary>
    public Task<IActionResult> OnPostPrintTogetherAsync(Guid basedOn, string? ids, CancellationToken cancel) =>
        Change(basedOn, new PrintTogether(Named(ids)), cancel);

    /// <summary>Makes pieces of what is printed on one.</summary>
    public Task<IActionResult> OnPostCutAgainAsync(Guid basedOn, string? id, CancellationToken cancel) => Change(basedOn, new CutAgain(id ?? ""), cancel);

    /// <summary>How printed lines look.</summary>
    /// <param name="stroke">The colour of the line, where it is drawn.</param>
    /// <param name="fill">The colour within, where it is filled.</param>
    public Task<IActionResult> OnPostInkAsync(Guid basedOn, string? ids, string? stroke, bool drawn, string? width, string? dashes, string? fill, bool filled,
        CancellationToken cancel)
    {
        if (!LengthText.TryRead(string.IsNullOrWhiteSpace(width) ? "0.35 mm" : width, LengthUnit, out var wide, out var error)) return Say(error, cancel);
        if (ReadColour(stroke) is not { } line || ReadColour(fill) is not { } within) return Say("A colour is written #rrggbb.", cancel);
        var set = Dashes.FirstOrDefault(d => d.Name == dashes);
        var ends = dashes == "dotted" ? LineCap.Round : LineCap.Butt;
        var ink = new Ink(filled ? within : null, FillRule.EvenOdd, drawn
            ? new(line, wide, ends, LineJoin.Round, 4, [.. (set.Dashes ?? []).Select(d => wide * d)], Length.Zero) : null);
        return Change(basedOn, new SetInk(Named(ids), ink), cancel);
    }

    /// <summary>How lines and edges are perforated.</summary>
    public Task<IActionResult> OnPostDashesAsync(Guid basedOn, string? ids, string? dash, string? gap, CancellationToken cancel) =>
        ReadWay(dash, out var cut, out var error) && ReadWay(gap, out var left, out error)
            ? Change(basedOn, new SetDashes(Named(ids), new(cut, left)), cancel) : Say(error, cancel);

    /// <summary>Scores lines twice; once where no distance is given.</summary>
    public async Task<IActionResult> OnPostScoreTwiceAsync(Guid basedOn, string? ids, string? apart, CancellationToken cancel) =>
        string.IsNullOrWhiteSpace(apart) ? await Change(basedOn, new ScoreTwice(Named(ids), null), cancel)
        : ReadWay(apart, out var way, out var error) ? await Change(basedOn, new ScoreTwice(Named(ids), way), cancel) : await Say(error, cancel);

    /// <summary>The colour that is seen at a place of the card: "#rrggbb".</summary>
    public IActionResult OnGetColour(double x, double y) =>
        Design is { } d && Core.Printing.Seen.ColourAt(d, new(x, y), p => (Core.Cards.Stocks.For(p, Stocks)?.Colour ?? p.Colour)) is { } colour
            ? Content(colour.Hex, "text/plain") : NotFound();

    private static Colour? ReadColour(string? hex) => hex is { Length: 7 } && hex[0] == '#'
        && int.TryParse(hex.AsSpan(1), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out _) ? Colour.FromHex(hex) : null;
}

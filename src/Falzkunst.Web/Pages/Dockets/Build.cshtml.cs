using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Shapes;
using Falzkunst.Core.Strength;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

public sealed partial class BuildModel(DocketParts parts) : LooksPage(parts)
{
    public const int ShownOfHistory = 60;

    public override int Stage => 2;

    public override string Card => "_BuildCard";

    /// <summary>The pieces of a ply.</summary>
    public IReadOnlyList<Piece> PiecesOn(string ply) => Design?.Pieces.Where(p => p.PlyId == ply).ToList() ?? [];

    /// <summary>The pieces that have the chosen one's shape, wherever they lie; itself among them. Null where not one is chosen.</summary>
    public IReadOnlyList<Piece>? Alike => Piece is not { } one ? null : [.. Design!.Pieces.Where(p => p.Outline.Equals(one.Outline))];

    /// <summary>The pieces that are cut from the chosen one's stock; null where not one is chosen, or all are.</summary>
    public IReadOnlyList<Piece>? OfItsStock => Piece is { } one && Core.Cards.Stocks.For(one, Stocks) is { } stock
        && Design!.Pieces.Where(p => Core.Cards.Stocks.For(p, Stocks) == stock).ToList() is var same && same.Count < Design.Pieces.Length ? same : null;

    /// <summary>What happened to the card, the newest first; only where nothing is chosen.</summary>
    public IReadOnlyList<HistoryLine> History { get; private set; } = [];

    /// <summary>What lies on the studio's shelf; only where nothing is chosen.</summary>
    public IReadOnlyList<KeptThing> Shelf { get; private set; } = [];

    public Task OnGetAsync(CancellationToken cancel) => ShowCard(cancel);

    /// <summary>The groups of the card whose bodies are fetched when they are opened, by their ids.</summary>
    private static readonly Dictionary<string, string> Groups = new(StringComparer.Ordinal)
    {
        ["add-base"] = "_AddBase",
        ["add-shape"] = "_AddShape",
        ["fold"] = "_Fold",
        ["write"] = "_Write",
        ["fill"] = "_Fill",
        ["print-on"] = "_PrintOn",
        ["shelf-group"] = "_ShelfGroup",
        ["history"] = "_History",
    };

    private string _asked = "";

    /// <summary>Whether the body of a group is written with this answer: in whole pages, and where a script says that it is open.</summary>
    public bool IsWhole(string group) => _asked == group || !Request.Headers.ContainsKey("X-Part")
        || Request.Headers["X-Open"].ToString().Split(' ').Contains(group);

    /// <summary>The body of a group of the card.</summary>
    public async Task<IActionResult> OnGetGroupAsync(string? group, CancellationToken cancel)
    {
        if (Design is null || !Groups.TryGetValue(group ?? "", out var partial)) return NotFound();
        _asked = group!;
        await ShowCard(cancel);
        return Partial(partial, this);
    }

    /// <summary>What of the shelf has some words in its name.</summary>
    public async Task<IActionResult> OnGetShelfAsync(string? text, CancellationToken cancel)
    {
        Shelf = await Parts.OnShelf.Find(text ?? "", false, cancel);
        return Partial("_Shelf", this);
    }

    /// <summary>Keeps what is chosen, or the whole card, on the shelf.</summary>
    public async Task<IActionResult> OnPostKeepAsync(string? ids, string? name, CancellationToken cancel) => Design is not { } design ? Back()
        : await Say(await Parts.OnShelf.Keep(design.Only(Named(ids)), name ?? "", cancel) ?? $"“{name?.Trim()}” lies on the shelf, for any docket.",
            cancel);

    /// <summary>Takes something from the shelf into this docket, at its true size.</summary>
    /// <param name="x">Where its middle is laid, in mm; beside what is there, where nothing is said.</param>
    public async Task<IActionResult> OnPostTakeAsync(Guid basedOn, Guid kept, double? x, double? y, CancellationToken cancel)
    {
        try
        {
            return await Parts.OnShelf.Take(kept, cancel) is var (name, design)
                ? await ChangeAndChoose(basedOn, new BringBeside(design, $"“{name}” from the shelf")
                {
                    At = x is { } right && y is { } down ? new(right, down) : null,
                }, cancel)
                : await Say("That is not on the shelf any more.", cancel);
        }
        catch (UnreadableFileException e)
        {
            return await Say($"It can't be taken: {e.Message}. Nothing was changed.", cancel);
        }
    }

    public async Task<IActionResult> OnPostShelfOffAsync(Guid kept, bool back, CancellationToken cancel)
    {
        if (await Parts.OnShelf.Off(kept, !back, cancel) is not { } name) return await Say("That is not on the shelf any more.", cancel);
        if (!back) Ask($"“{name}” is off the shelf.", "Put it back", new() { ["back"] = "true" });
        return Back();
    }

    protected override async Task ShowCard(CancellationToken cancel)
    {
        await base.ShowCard(cancel);
        if (Lines.Count > 0 && Lines.All(l => l.Operation == Core.Cards.Operation.Foil))
            Foils = [.. (await Parts.Drawer.Foils(cancel)).Select(f => f.Name).Distinct()];
        if (ChosenPieces.Count + (Print is null ? 0 : 1) > 0 && (IsWhole("fill") || Print is not null)) Tiles = await Parts.OnShelf.Find("", true, cancel);
        if (ThingIds.Length > 0) return;
        if (IsWhole("shelf-group")) Shelf = await Parts.OnShelf.Find("", false, cancel);
        if (IsWhole("history")) History = await Parts.Revisions.History(Docket, ShownOfHistory, cancel);
    }

    /// <summary>In one line: "cut 1 outline, 2 holes, 412 mm; draw 2 lines, 1.2 m".</summary>
    public static string WouldHappen(IReadOnlyCollection<Piece> pieces) =>
        string.Join("; ", Core.Cards.Work.Of(pieces, []).Select(w => $"{w.Operation.Word()} {Words.Parts(w)}, {Words.Run(w.Run)}"));

    public Task<IActionResult> OnPostLineAsync(Guid basedOn, string line, string operation, CancellationToken cancel) =>
        Operations.TryRead(operation, out var wanted) ? Change(basedOn, new SetLineOperation([line ?? ""], wanted), cancel)
            : Say("That operation is not known.", cancel);

    public Task<IActionResult> OnPostFoldSideAsync(Guid basedOn, string line, FoldSide side, CancellationToken cancel) =>
        Change(basedOn, new SetFoldSide([line ?? ""], side), cancel);

    /// <summary>The lines that may be chosen with one: those of its look, and all that the same is done with.</summary>
    public IEnumerable<(IReadOnlyList<string> Ids, string Says)> MoreLike(LaidLine line)
    {
        List<LaidLine> same = [.. Design!.Lines.Where(l => l.Operation == line.Operation)], looks = [.. same.Where(l => l.Look == line.Look)];
        if (line.Look.Length > 0 && looks.Count > 1 && looks.Count < same.Count)
            yield return ([.. looks.Select(l => l.Id)], $"Choose all {looks.Count} of this look");
        if (same.Count > 1) yield return ([.. same.Select(l => l.Id)], $"Choose all {same.Count} to {line.Operation.Word()}");
    }

    public Task<IActionResult> OnPostFaceAsync(Guid basedOn, string ids, Face face, CancellationToken cancel) =>
        Change(basedOn, new SetFace(Named(ids), face), cancel);

    public Task<IActionResult> OnPostPassesAsync(Guid basedOn, string ids, int? passes, CancellationToken cancel) =>
        Change(basedOn, new SetPasses(Named(ids), passes), cancel);

    public Task<IActionResult> OnPostPenAsync(Guid basedOn, string ids, bool coloured, string? pen, string? width, CancellationToken cancel) =>
        OfWidth(basedOn, width, wide => new SetPen(Named(ids), coloured ? ReadColour(pen) : null, wide), cancel);

    public Task<IActionResult> OnPostFoilAsync(Guid basedOn, string ids, string? foil, string? width, CancellationToken cancel) =>
        OfWidth(basedOn, width, wide => new SetFoil(Named(ids), string.IsNullOrWhiteSpace(foil) ? null : foil.Trim(), wide), cancel);

    /// <summary>A change with the width of a line, which may be left open.</summary>
    private async Task<IActionResult> OfWidth(Guid basedOn, string? width, Func<Length?, Edit> edit, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(width)) return await Change(basedOn, edit(null), cancel);
        return LengthText.TryRead(width, LengthUnit.Millimetre, out var wide, out var error) ? await Change(basedOn, edit(wide), cancel)
            : await Say(error, cancel);
    }

    /// <summary>What the foils in the drawer are called.</summary>
    public IReadOnlyList<string> Foils { get; private set; } = [];

    public Task<IActionResult> OnPostOutlineAsync(Guid basedOn, string pieces, string part, string operation, CancellationToken cancel) =>
        Operations.TryRead(operation, out var wanted)
        ? Change(basedOn, new SetOutlineOperation(Named(pieces), wanted, part is "outer" or "all", part is "holes" or "all"), cancel)
        : Say("That operation is not known.", cancel);

    /// <summary>Leaves work to outer edges alone, or to what is chosen.</summary>
    /// <param name="what">"edges" or "chosen".</param>
    /// <param name="ids">Pieces and lines; none for all of the card.</param>
    public Task<IActionResult> OnPostOnlyAsync(Guid basedOn, string? what, string? ids, CancellationToken cancel)
    {
        if (Design is not { } design) return Say("Bring in a file first.", cancel);
        var named = Named(ids);
        var edit = what == "edges" ? OnlyThis.OuterEdges(design, named.IsEmpty ? design.Pieces : [.. named.Select(design.Piece).OfType<Piece>()])
            : OnlyThis.Chosen(design, named.ToHashSet(StringComparer.Ordinal));
        return edit is null ? Say("It is so already.", cancel) : Change(basedOn, edit, cancel);
    }

    /// <summary>Leaves bridges in the cuts of pieces; none where no number is given.</summary>
    public async Task<IActionResult> OnPostBridgesAsync(Guid basedOn, string? pieces, string? part, string? number, string? width, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(number) || number.Trim() == "0") return await Change(basedOn, Of(null), cancel);
        if (!int.TryParse(number, out var many)) return await Say("The number of bridges is a whole number; 0 for none.", cancel);
        return ReadWay(width, out var wide, out var error) ? await Change(basedOn, Of(new(many, wide)), cancel) : await Say(error, cancel);

        SetBridges Of(CutBridges? bridges) => new(Named(pieces), bridges, part is "outer" or "all", part is "holes" or "all");
    }

    /// <summary>Puts pieces on a ply; "new" is one of their own.</summary>
    public Task<IActionResult> OnPostPlyAsync(Guid basedOn, string pieces, string ply, CancellationToken cancel) =>
        Change(basedOn, ply == "new" ? new PutOnNewPly(Named(pieces)) : new PutOnPly(Named(pieces), ply ?? ""), cancel);

    public Task<IActionResult> OnPostFrontAsync(Guid basedOn, string pieces, bool front, CancellationToken cancel) =>
        Change(basedOn, new LayInFront(Named(pieces), front), cancel);

    public Task<IActionResult> OnPostFoamAsync(Guid basedOn, string ply, string? foam, CancellationToken cancel) =>
        ReadWay(foam, out var high, out var error) ? Change(basedOn, new SetFoam(ply ?? "", high), cancel) : Say(error, cancel);

    /// <summary>How high the card is when it is assembled: its papers, and the foam between.</summary>
    public Length Height => Design is { } d ? Envelopes.ThicknessOf(d, Stocks) : Length.Zero;

    public Task<IActionResult> OnPostMovePlyAsync(Guid basedOn, string ply, int to, CancellationToken cancel) =>
        Change(basedOn, new MovePly(ply ?? "", to), cancel);

    public Task<IActionResult> OnPostStockAsync(Guid basedOn, string pieces, string? stock, CancellationToken cancel) =>
        Change(basedOn, Design is { } design ? Strengths.OnStock(design, Named(pieces), stock ?? "", Stocks) : new AssignStock(Named(pieces), stock ?? ""),
            cancel);

    /// <summary>Shows the docket as it was at some point; what came after stays in the list.</summary>
    public async Task<IActionResult> OnPostGoBackAsync(Guid basedOn, Guid to, CancellationToken cancel) =>
        await Show(await Parts.Revisions.GoBack(Docket, basedOn, to, cancel), "Go back", cancel);

    public Task<IActionResult> OnPostRenameAsync(Guid basedOn, string id, string label, CancellationToken cancel)
    {
        label = (label ?? "").Trim();
        return label.Length is 0 or > 60 ? Say("A name has 1 to 60 letters.", cancel) : Change(basedOn, new Rename(id ?? "", label), cancel);
    }
}

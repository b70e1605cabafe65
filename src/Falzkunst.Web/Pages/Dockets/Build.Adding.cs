using System.Collections.Immutable;
using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Shapes;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>What is added on the table from nothing: bases, shapes and holes, words; and what is done to shapes.</summary>
public sealed partial class BuildModel
{
    private const double UsualMm = 40;

    /// <summary>The words of what is chosen, to be changed; null where it writes none.</summary>
    public Lettered? ChosenWords => WordsOf(Line?.Id ?? Piece?.Id ?? "");

    private Lettered? WordsOf(string id) => Design?.Line(id)?.Line.Words?.Words ?? Design?.Piece(id)?.Shape as Lettered;

    /// <summary>The envelopes that take the chosen base when it is folded, the tightest first, with what is left; null where no base is chosen.</summary>
    public IReadOnlyList<(Envelope Envelope, Length ToSpare)>? Fitting
    {
        get
        {
            if (Piece is not { Folds.Length: > 0 } piece || Panels.Of(piece) is not { Count: > 1 } panels) return null;
            var front = panels.MaxBy(p => p.AreaMm2)!.Bounds;
            return Envelopes.For(Length.FromMm(front.Width), Length.FromMm(front.Height), Height);
        }
    }

    /// <summary>What a fold or mats are for: the piece that is chosen, or the base that words would go to.</summary>
    public string? FoldedId => Piece?.Id ?? (Design is { } d && Placing.Usual(d, false).Split('#')[0] is var id && d.Piece(id) is not null ? id : null);

    /// <summary>Where something new can go: what is chosen first, then the panels of bases (the front first) and other pieces, and the page.</summary>
    public IReadOnlyList<(string To, string Words)> Places
    {
        get
        {
            const int most = 16;
            var all = new List<(string, string)>();
            if (Design is not { } d) return all;
            foreach (var piece in ChosenPieces.Take(1).Concat(d.Pieces.Where(p => !p.Folds.IsEmpty).Take(most)).Concat(d.Pieces).Distinct().Take(most))
            {
                var panels = piece.Folds.IsEmpty ? [] : Panels.Of(piece);
                foreach (var (panel, k) in panels.Select((p, k) => (p, k)).OrderByDescending(p => p.p.Name == "front"))
                    if (panels.Count > 1) all.Add(($"{piece.Id}#{k}", $"{panel.Called} of {piece.Label}"));
                all.Add((piece.Id, piece.Label));
            }

            all.Add(("page", "the page"));
            return all;
        }
    }

    /// <param name="format">Of the front by its name; of an envelope ("in C6"), as large a front as that takes.</param>
    /// <param name="lies">Whether a front of a named size lies; it stands otherwise.</param>
    public async Task<IActionResult> OnPostBaseAsync(Guid basedOn, BaseKind kind, string? format, string? width, string? height, bool lies, bool flat,
        int panels, bool perforate, string? corner, CancellationToken cancel) =>
        Basing(kind, format, width, height, lies, flat, panels, perforate, corner, await Parts.Drawer.FoldSetback(cancel), out var error) is { } edit
            ? await ChangeAndChoose(basedOn, edit, cancel) : await Say(error, cancel);

    /// <summary>Where a base would come to lie.</summary>
    public async Task<IActionResult> OnGetBasedAsync(BaseKind kind, string? format, string? width, string? height, bool lies, bool flat, int panels,
        bool perforate, string? corner, CancellationToken cancel)
    {
        var setback = await Parts.Drawer.FoldSetback(cancel);
        return Previewed(Basing(kind, format, width, height, lies, flat, panels, perforate, corner, setback, out var error), error);
    }

    private AddBase? Basing(BaseKind kind, string? format, string? width, string? height, bool lies, bool flat, int panels, bool perforate, string? corner,
        Length setback, out string error)
    {
        var size = BaseForm.FrontOf(format, kind, panels, lies, Design, Stocks);
        if (!ReadSize(width, size?.Width.Mm ?? 105, out var w, out error) || !ReadSize(height, size?.Height.Mm ?? 148, out var h, out error)
            || !ReadSize(corner, 0, out var r, out error)) return null;
        var made = (flat ? CardBase.Flat(kind, w, h, panels) : CardBase.Of(kind, w, h)) with
        {
            PanelCount = panels,
            Folded = perforate ? Operation.Perforate : Operation.Score,
            Corner = r,
            Setback = setback,
        };
        // Beside what is there; on an empty page at its corner.
        var here = Design!.Pieces.IsEmpty ? default : new Point(Design.Extent.Right + 10, Design.Extent.Top);
        return new(made, here);
    }

    /// <summary>Adds shapes: several widths, separated by semicolons or commas with a space, make several in a row.</summary>
    /// <param name="at">"middle", or a side of where it goes.</param>
    /// <param name="lies">"in", "across" or "out" of that side; what is usual for what it becomes where nothing is said.</param>
    /// <param name="as">"piece", "hole", "joined", or "thing" for what stands for a real one.</param>
    public Task<IActionResult> OnPostShapeAsync(Guid basedOn, string maker, string? width, string? height, string? corner, int sides, string? where, string? at,
        string? lies, string? @as, CancellationToken cancel) =>
        Shaping(maker, width, height, corner, sides, where, at, lies, @as, out var error) is not { } edit ? Say(error, cancel)
            : @as is "hole" or "joined" ? Change(basedOn, edit, cancel) : ChangeAndChoose(basedOn, edit, cancel);

    /// <summary>Where shapes would come to lie.</summary>
    public IActionResult OnGetShaped(string maker, string? width, string? height, string? corner, int sides, string? where, string? at, string? lies,
        string? @as) => Previewed(Design is null ? null : Shaping(maker, width, height, corner, sides, where, at, lies, @as, out var error), "");

    private Edit? Shaping(string? maker, string? width, string? height, string? corner, int sides, string? where, string? at, string? lies, string? @as,
        out string error)
    {
        error = "That shape is not known.";
        if (Makers.Find(maker ?? "") is not { } known) return null;
        var to = where ?? "page";
        error = "Where it would go is gone.";
        if (Align.BoxOf(Design!, to) is not { } on) return null;
        var side = Enum.TryParse<BoxSide>(at, true, out var named) ? named : (BoxSide?)null;
        // Where its panel ends at a fold, the edge of the paper is meant.
        if (side is { } outer && Align.BoxOf(Design!, to.Split('#')[0]) is { } whole && Math.Abs(Placing.At(on, outer) - Placing.At(whole, outer)) > 0.5)
            on = whole;
        var along = side is BoxSide.Left or BoxSide.Right ? on.Height : on.Width;
        // What stands on an edge is as wide as that, unless a width is typed.
        var usual = side is not null && known.StandsOnEdges ? along : UsualMm;
        var (sizes, shapes) = (new List<(double Width, double Height)>(), new List<Made>());
        foreach (var text in Widths(width))
        {
            if (!ReadSize(text, usual, out var w, out error)
                || !ReadSize(height, known.Name switch { "slot" => 3, "waves" => 12, _ => w.Mm }, out var h, out error)
                || !ReadSize(corner, 0, out var r, out error)) return null;
            var numbers = ImmutableSortedDictionary<string, double>.Empty.Add("width", w.Mm).Add("height", h.Mm);
            if (known.Takes.Any(t => t.Name == "corner") && r > Length.Zero) numbers = numbers.Add("corner", r.Mm);
            if (known.Takes.Any(t => t.Name == "sides") && sides > 0) numbers = numbers.Add("sides", sides);
            sizes.Add((w.Mm, h.Mm));
            shapes.Add(new(known.Name, numbers));
        }

        var over = Enum.TryParse<OverEdge>(lies, true, out var said) ? said : Placing.Usually(known, @as);
        var places = side is { } edge ? Placing.Along(on, edge, sizes, over, turns: known.StandsOnEdges)
            : sizes.Count == 1 ? [Placing.Middle(on, sizes[0].Width, sizes[0].Height)]
            : Placing.Along(on with { Top = on.Centre.Y, Bottom = on.Centre.Y }, BoxSide.Top, sizes, OverEdge.Across, false);
        var (piece, label) = (to.Split('#')[0], Web.Words.Big(known.Name));
        return @as switch
        {
            "hole" => One([.. shapes.Zip(places, (s, p) => new AddHole(piece, s, p))], $"Open {shapes.Count} holes"),
            "joined" => new AddJoined(piece, [.. shapes.Zip(places, (s, p) => new PlacedShape(s, p))]),
            "thing" => One([.. shapes.Zip(places, (s, p) => new AddPiece(s, p, "Thing") { IsThing = true })], "Place things"),
            _ => One([.. shapes.Zip(places, (s, p) => new AddPiece(s, p, label))], $"Add {shapes.Count} shapes"),
        };

        static Edit One(ImmutableArray<Edit> edits, string what) => edits.Length == 1 ? edits[0] : new Series(edits, what);
    }

    /// <summary>Several lengths in one field: "30; 45; 25", "30, 45, 25"; a comma within a number has no space behind it.</summary>
    private static IReadOnlyList<string> Widths(string? text)
    {
        const int most = 24;
        const StringSplitOptions plain = StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries;
        var parts = (text ?? "").Replace(", ", ";", StringComparison.Ordinal).Split(';', plain);
        return parts.Length == 0 ? [""] : [.. parts.Take(most)];
    }

    public async Task<IActionResult> OnPostFoldAsync(Guid basedOn, string? piece, int? panel, BoxSide from, string? distance, bool perforate,
        FoldSide side, CancellationToken cancel) =>
        Folding(piece, panel, from, distance, perforate, side, await Parts.Drawer.FoldSetback(cancel), out var error) is { } edit
            ? await Change(basedOn, edit, cancel) : await Say(error, cancel);

    /// <summary>Where a fold would come to lie.</summary>
    public async Task<IActionResult> OnGetFoldedAsync(string? piece, int? panel, BoxSide from, string? distance, bool perforate, FoldSide side,
        CancellationToken cancel) =>
        Previewed(Folding(piece, panel, from, distance, perforate, side, await Parts.Drawer.FoldSetback(cancel), out var error), error);

    /// <param name="from">As the piece lies on the card.</param>
    private AddFold? Folding(string? piece, int? panel, BoxSide from, string? distance, bool perforate, FoldSide side, Length setback, out string error)
    {
        Length? off = null;
        error = "";
        if (!string.IsNullOrWhiteSpace(distance))
        {
            if (!ReadWay(distance, out var read, out error)) return null;
            off = read;
        }

        var own = Design?.Piece(piece ?? "") is { } on ? AddFold.OwnSide(on, from) : from;
        return new(piece ?? "", own, off, perforate ? Operation.Perforate : Operation.Score, side, setback) { Panel = panel };
    }

    /// <summary>Names the panels of a base, in reading order; an empty name takes one off.</summary>
    public Task<IActionResult> OnPostNamePanelsAsync(Guid basedOn, string piece, string[] names, CancellationToken cancel)
    {
        if (Design?.Piece(piece ?? "") is not { } on) return Say("The piece is gone.", cancel);
        var edits = Panels.Of(on).Zip(names, (p, name) => (p, Name: (name ?? "").Trim())).Where(n => n.p.Name != n.Name && n.Name.Length <= NamePanel.Longest)
            .Select(n => (Edit)new NamePanel(on.Id, n.p.Bounds.Centre, n.Name)).ToImmutableArray();
        return edits.IsEmpty ? Say("They are called that already.", cancel)
            : Change(basedOn, edits.Length == 1 ? edits[0] : new Series(edits, $"Name the panels of “{on.Label}”"), cancel);
    }

    public Task<IActionResult> OnPostMatsAsync(Guid basedOn, string piece, string? less, CancellationToken cancel) =>
        ReadWay(less, out var by, out var error) ? ChangeAndChoose(basedOn, new AddMats(piece ?? "", by), cancel) : Say(error, cancel);

    /// <summary>Writes words where they are wanted: in lines where one would be too long, smaller where no height was typed, though never smaller than a pen
    /// can write; or as wide as between typed margins.</summary>
    public Task<IActionResult> OnPostWriteAsync(Guid basedOn, string? text, string? face, string? size, string? letters, string? between,
        string? gaps, string? bend, string? apart, TextAlign align, string? where, string? margin, bool inner, WordsEdge? along, string? operation,
        int? pen, CancellationToken cancel)
    {
        if (ReadWords(text, face, size, letters, between, gaps, bend, apart, align, out var words) is { } wrong) return Say(wrong, cancel);
        if (!ReadSize(margin, Placing.Margin.Mm, out var less, out var error)) return Say(error, cancel);
        var to = !string.IsNullOrEmpty(where) ? where : ChosenPieces is [{ IsThing: false } chosen] ? Placing.UsualOn(chosen, inner)
            : Placing.Usual(Design!, inner);
        if (Align.BoxOf(Design!, to) is not { } on) return Say("Where it would go is gone.", cancel);
        var wide = Length.FromMm(on.Width - 2 * less.Mm);
        if (wide.Mm < 1) return Say("Between those margins nothing is left; nothing was written.", cancel);
        if (along is { } edge)
        {
            if (Design!.Piece(to.Split('#')[0]) is not { } paper) return Say("Words run along the edge of a piece; choose one.", cancel);
            if (words!.AlongEdge(paper.OnCard, less, edge) is not { } bent) return Say("The words are longer than that edge; nothing was written.", cancel);
            return Add(bent, Place.Own);
        }

        if (!string.IsNullOrWhiteSpace(margin))
        {
            words = words!.AsWide(wide);
        }
        else
        {
            var isTyped = !string.IsNullOrWhiteSpace(size);
            var drawn = words!.IsSingleLine && ToolWidths.TryGetValue(Operation.Draw, out var wideLine) ? wideLine : Length.Zero;
            var high = Length.FromMm(Math.Max(1, on.Height - 2 * less.Mm));
            if (words.Within(wide, high, isTyped ? words.CapHeight : Lettered.LeastCapHeight(drawn)) is { } set)
            {
                words = set;
            }
            else
            {
                // What was typed is kept; otherwise it is as small as can be read.
                words = (isTyped ? words : words with { CapHeight = Lettered.LeastCapHeight(drawn) }).Broken(wide);
                var box = words.Path.Bounds;
                Said = $"The words take {Words.Size(Length.FromMm(box.Width), Length.FromMm(box.Height), Unit)}, and their place has "
                    + $"{Words.Size(wide, high, Unit)}: {(isTyped ? "they are as high as you typed" : "smaller, no pen writes them")}.";
            }
        }

        // On the inner face words are written mirrored, as they are seen through the paper.
        var place = new Place(default, default, inner);
        var its = words.Path.Bounds;
        return Add(words, place.Moved(Placing.Clear(Design!, on, its.Width, its.Height, inner) - place.Map.Apply(its.Centre)));

        Task<IActionResult> Add(Lettered written, Place at)
        {
            if (!written.IsSingleLine && !inner) return ChangeAndChoose(basedOn, new AddPiece(written, at, Lettered.Short(written.Text)), cancel);
            var work = Operations.TryRead(operation ?? "", out var op) ? op : Operation.Draw;
            var held = work == Operation.Draw ? PensHeld.FirstOrDefault(p => p.Holder == pen).Pen : null;
            return ChangeAndChoose(basedOn, new AddLine(null, new(written, at), work)
            {
                Face = inner ? Face.Inner : Face.Outer,
                PieceId = to.Split('#')[0],
                Pen = held?.Ink,
                // That of the usual pen is not named: another that becomes the usual one takes its place.
                PenWidth = held is { Width.Mm: > 0 } && (!ToolWidths.TryGetValue(work, out var usual) || usual != held.Width) ? held.Width : null,
            }, cancel);
        }
    }

    /// <summary>The pens that are in the machine that the docket is run on, with their holders, from 1.</summary>
    public IReadOnlyList<(int Holder, HeldTool Pen)> PensHeld => field ??= [.. (UsualMachine?.Setup.Holders ?? [])
        .Select((h, i) => (Holder: i + 1, Pen: h!)).Where(p => p.Pen is { Operation: Operation.Draw })];

    public Task<IActionResult> OnPostWordsAsync(Guid basedOn, string id, string? text, string? face, string? size, string? letters, string? between,
        string? gaps, string? bend, string? apart, TextAlign align, bool straight, CancellationToken cancel) =>
        ReadWords(text, face, size, letters, between, gaps, bend, apart, align, out var words) is { } wrong ? Say(wrong, cancel)
            : Change(basedOn, new SetWords(id ?? "", words! with { Along = straight ? null : WordsOf(id ?? "")?.Along }), cancel);

    /// <summary>Makes lines and pieces of words drawn, which can't be written otherwise any more.</summary>
    public Task<IActionResult> OnPostTakeApartAsync(Guid basedOn, string id, CancellationToken cancel) => Change(basedOn, new TakeApart(id ?? ""), cancel);

    /// <summary>Treats what is chosen, or makes new pieces of it: "outset", "rim", "backing", "round", "holes", "fill", "smooth", "simple".</summary>
    /// <param name="only">The corners to round, "0,3", as <see cref="OnGetCorners"/> counts them; empty rounds all.</param>
    public Task<IActionResult> OnPostTreatAsync(Guid basedOn, string ids, string how, string? by, CornerStyle corners, int times, bool anew, bool smaller,
        string? only, CancellationToken cancel)
    {
        if (Treating(ids, how, by, corners, times, anew, smaller, only, out var error) is not { } edit) return Say(error, cancel);
        return edit is LayTreated ? ChangeAndChoose(basedOn, edit, cancel) : Change(basedOn, edit, cancel);
    }

    /// <summary>What would come of a treatment, as a picture to lay on the table, and in words; nothing where it can't be done.</summary>
    public IActionResult OnGetTreated(string ids, string how, string? by, CornerStyle corners, int times, bool anew, bool smaller, string? only)
    {
        if (Design is not { } design || Treating(ids, how, by, corners, times, anew, smaller, only, out var error) is not { } edit)
            return new JsonResult(new { says = "" });
        if (edit.Refusal(design) is { } refusal) return new JsonResult(new { says = refusal });
        if (edit is Treat { Treatment: Smoothed smooth })
        {
            var away = Named(ids).Select(design.Piece).OfType<Piece>()
                .Select(p => (p.Place, Smoothing.Of(p.Outline, smooth.Size.Mm).Away)).ToList();
            string Paths(Func<SmoothedAway, IReadOnlyList<VectorPath>> which) =>
                VectorPath.Joined(away.SelectMany(a => which(a.Away).Select(p => p.Transform(a.Place.Map)))).ToSvg();
            return new JsonResult(new
            {
                gone = Paths(a => a.Gone),
                comes = Paths(a => a.Filled),
                says = away.TrueForAll(a => a.Away.IsNothing) ? "Nothing is narrower."
                    : $"Takes off {Words.Count(away.Sum(a => a.Away.Gone.Count), "place")}, fills {away.Sum(a => a.Away.Filled.Count)}.",
            });
        }

        return Previewed(edit, "");
    }

    /// <summary>The corners of a piece on the card, "x y" in mm, in the order in which they are counted.</summary>
    public IActionResult OnGetCorners(string? piece)
    {
        const int most = 400;
        if (Design?.Piece(piece ?? "") is not { } p || Fillets.CornersOf(p.Outline) is not { Count: <= most } corners)
            return new JsonResult(Array.Empty<string>());
        return new JsonResult(corners.Select(c => p.Place.Map.Apply(c)).Select(c => new[] { Math.Round(c.X, 4), Math.Round(c.Y, 4) }));
    }

    private Edit? Treating(string? ids, string? how, string? by, CornerStyle corners, int times, bool anew, bool smaller, string? only, out string error)
    {
        if (!ReadWay(by, out var amount, out error)) return null;
        error = "Type by how much.";
        if (amount == Length.Zero && how is not ("fill" or "backing")) return null;
        var signed = smaller ? amount * -1 : amount;
        var rounded = (only ?? "").Split(',').Select(t => int.TryParse(t, CultureInfo.InvariantCulture, out var k) ? k : -1).Where(k => k >= 0);
        error = "That can't be done with what is chosen.";
        return how switch
        {
            "outset" when anew => new LayTreated(Named(ids), [new Outset(signed) { Corners = corners }], Math.Max(1, times), "frame", signed > Length.Zero),
            "outset" => new Treat(Named(ids), new Outset(signed) { Corners = corners }),
            "rim" => new LayTreated(Named(ids), [new Rim(amount)], 1, "rim", false),
            "backing" => new LayTreated(Named(ids), [new FilledHoles(FilledHoles.All), new Outset(amount) { Corners = corners }], 1, "backing", true),
            "round" => new Treat(Named(ids), new RoundedCorners(amount) { Only = [.. rounded.Distinct().Order()] }),
            "holes" => new Treat(Named(ids), new SizedHoles(signed)),
            "fill" => new Treat(Named(ids), new FilledHoles(amount == Length.Zero ? FilledHoles.All : amount.Mm * amount.Mm)),
            "smooth" => new Treat(Named(ids), new Smoothed(amount)),
            "simple" => new Treat(Named(ids), new Simplified(amount)),
            _ => null,
        };
    }

    public Task<IActionResult> OnPostUntreatAsync(Guid basedOn, string piece, int index, CancellationToken cancel) =>
        Change(basedOn, new Untreat(piece ?? "", index), cancel);

    /// <summary>Closes open lines.</summary>
    public Task<IActionResult> OnPostCloseAsync(Guid basedOn, string ids, string? within, bool piece, CancellationToken cancel)
    {
        if (!ReadSize(within, 0.5, out var far, out var error)) return Say(error, cancel);
        var edit = new CloseLines(Named(ids), far, piece);
        return piece ? ChangeAndChoose(basedOn, edit, cancel) : Change(basedOn, edit, cancel);
    }

    /// <summary>Fills chosen holes: "p3/2,p3/4".</summary>
    public Task<IActionResult> OnPostFillAsync(Guid basedOn, string rings, CancellationToken cancel)
    {
        var holes = Named(rings).Select(RingId.Read).OfType<(string Piece, int Ring)>().ToLookup(r => r.Piece, r => r.Ring, StringComparer.Ordinal);
        return holes.Count != 1 ? Say("Choose holes of one piece.", cancel)
            : Change(basedOn, new Treat([holes.First().Key], new FilledHoles(0) { Rings = [.. holes.First().Order()] }), cancel);
    }

    /// <summary>Makes a line of what a hand drew ("x y,x y,…" in mm), or cuts what is named apart along it.</summary>
    /// <param name="how">"line", "free", "arc" or "cut".</param>
    public Task<IActionResult> OnPostDrawAsync(Guid basedOn, string? how, string? points, string? ids, CancellationToken cancel)
    {
        const int most = 5000, farthest = 100_000;
        var drawn = new List<Point>();
        foreach (var text in (points ?? "").Split(',', most, StringSplitOptions.RemoveEmptyEntries))
        {
            if (text.Split(' ') is not [var x, var y] || !double.TryParse(x, CultureInfo.InvariantCulture, out var right)
                || !double.TryParse(y, CultureInfo.InvariantCulture, out var down) || !(Math.Abs(right) + Math.Abs(down) < farthest))
                return Say("That is no line.", cancel);
            drawn.Add(new(right, down));
        }

        if (drawn.Count < 2) return Say("Drag from one end of the line to the other.", cancel);
        // A hand trembles by less than the first, and means a corner by more than the last.
        var path = how == "arc" ? CurveFit.Arc(drawn) is { } arc ? new([arc]) : VectorPath.Empty
            : how == "free" && drawn.Count > 3 ? new([CurveFit.Open(drawn, new(0.3, 3, 0.4, Angle.FromDegrees(50)))]) : VectorPath.Polyline([.. drawn]);
        if (how != "cut") return ChangeAndChoose(basedOn, new AddLine(path, null, Operation.Draw), cancel);
        var named = Named(ids).Where(id => Design?.Piece(id) is not null).ToImmutableArray();
        return named.IsEmpty ? Say("Choose what is to be cut apart first.", cancel) : Change(basedOn, new CutApart(named, path), cancel);
    }

    /// <summary>Cuts pieces apart along a straight line through the middle of what is named.</summary>
    /// <param name="degrees">0 is level; clockwise.</param>
    public Task<IActionResult> OnPostCutAtAsync(Guid basedOn, string ids, string? degrees, CancellationToken cancel)
    {
        if (!ReadDegrees(degrees, out var angle, out var error)) return Say(error, cancel);
        var box = Align.Around(Design!, Named(ids));
        if (box.IsEmpty) return Say("The piece is gone.", cancel);
        var along = Affine.Turn(angle).Apply(new(1, 0));
        return Change(basedOn, new CutApart(Named(ids), VectorPath.Polyline(box.Centre - along, box.Centre + along)), cancel);
    }

    public Task<IActionResult> OnPostGapAsync(Guid basedOn, string piece, string from, string? gap, CancellationToken cancel) =>
        ReadWay(gap, out var wide, out var error) ? Change(basedOn, new SetGap(piece ?? "", from ?? "", wide), cancel) : Say(error, cancel);

    private bool ReadSize(string? text, double usual, out Length length, out string error)
    {
        (length, error) = (Length.FromMm(usual), "");
        return string.IsNullOrWhiteSpace(text) || LengthText.TryRead(text, LengthUnit, out length, out error);
    }

    /// <summary>Reads the fields that words are written by; what is wrong with them as a sentence, or null.</summary>
    private string? ReadWords(string? text, string? face, string? size, string? letters, string? between, string? gaps, string? bend, string? apart,
        TextAlign align, out Lettered? words)
    {
        words = null;
        text = (text ?? "").ReplaceLineEndings("\n").Trim('\n');
        if (text.Trim().Length == 0) return "Type the words first.";
        if (text.Length > Lettered.MostSigns) return $"That are {text.Length:N0} signs; a card holds {Lettered.MostSigns:N0} at once. Nothing was written.";
        var (name, weight) = (face ?? "").Split('|') is [var n, var w] && int.TryParse(w, CultureInfo.InvariantCulture, out var heavy) ? (n, heavy)
            : (face ?? "", 400);
        if (Faces.Find(name, weight) is not { } known) return "That face does not ship with the application.";
        if (Faces.Missing(text, known) is { } missing) return missing + ". Nothing was written.";
        // Points are of the whole letter; lengths are of a capital.
        var isPoints = (size ?? "").TrimEnd().EndsWith("pt", StringComparison.OrdinalIgnoreCase);
        if (!ReadSize(size, 8, out var high, out var error) || !ReadWay(letters, out var spacing, out error) || !ReadWay(gaps, out var lines, out error)
            || !ReadWay(between, out var wordSpacing, out error)
            || !ReadWay(bend, out var radius, out error) || !ReadWay(apart, out var least, out error)) return error;
        words = new(text, known.Name, weight, isPoints ? high * known.CapHeight : high, spacing)
        {
            WordSpacing = wordSpacing,
            LineSpacing = lines,
            Bend = radius,
            Apart = least,
            Align = align,
        };
        return words.Fault() is { } fault ? $"It can't be written: {fault}." : null;
    }
}

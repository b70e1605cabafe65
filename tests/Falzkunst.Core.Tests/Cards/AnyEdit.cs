using Falzkunst.Core.Strength;
using System.Collections.Immutable;
using CsCheck;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Cards;

/// <summary>Makes edits of every kind there is, for any design; a kind without a maker here fails the tests.</summary>
internal static class AnyEdit
{
    /// <summary>Every kind of edit, found in the code.</summary>
    public static IReadOnlyList<Type> Kinds { get; } =
        [.. typeof(Edit).Assembly.GetTypes().Where(t => t.IsSubclassOf(typeof(Edit)) && !t.IsAbstract).OrderBy(t => t.Name, StringComparer.Ordinal)];

    private static readonly string[] Extras =
    [
        "<rect width='60' height='40' fill='#f4ead2'/><path d='M30 0V40' stroke='#00f' fill='none'/><circle cx='15' cy='20' r='5' fill='none' stroke='#c00' "
            + "stroke-dasharray='2 1'/>",
        "<g fill='none' stroke='#000'><rect x='1' y='5' width='80' height='50'/><circle cx='30' cy='30' r='9' stroke='#00f'/><circle cx='60' cy='30' r='9' "
            + "stroke='#00f'/><path d='M10 80C20 60 40 90 50 80' stroke-width='3'/></g>",
        "<path d='M5 5C30 0 50 30 60 10' stroke='#c0c' fill='none'/><path d='M70 10H90V30H70V10.5' stroke='#0a0' fill='none'/>",
    ];

    public static Gen<Design> Start { get; } = Gen.Int[0, 5].Select(n => n switch
    {
        0 => Cases.DemoCard(),
        1 => new BringBeside(Extra(1), "beside").Apply(Extra(0)),
        2 => Extra(2),
        3 => DesignReader.Read(Writing.PaperPng.Value),
        4 => WithWords(),
        _ => Extra(1),
    });

    private static Design WithWords()
    {
        Lettered Words(string face) => new("from the hut", face, 400, Length.FromMm(8), Length.Zero);
        var based = new AddBase(CardBase.Of(BaseKind.Tent, Length.FromMm(100), Length.FromMm(70)), new(0, 0)).Apply(Extra(2));
        based = new AddLine(null, new(Words("EMS Felix"), Place.Own.Moved(new(12, 100))), Operation.Draw).Apply(based);
        return new AddPiece(Words("Josefin Sans"), Place.Own.Moved(new(12, 40)), "Words").Apply(based);
    }

    internal static Picture APicture { get; } = new([.. Writing.PaperPng.Value]);

    private static Design Extra(int n) =>
        Cases.Read($"<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='100mm' viewBox='0 0 100 100'>{Extras[n]}</svg>");

    /// <summary>An edit of the kind that fits the design, or nearly: some name what is not there.</summary>
    public static Edit Make(Type kind, Design d, Random r)
    {
        var pieces = d.AllPieces.Select(p => p.Id).Append("p999").ToArray();
        var lines = d.AllPieces.SelectMany(p => p.AllLines).Concat(d.AllLoose).Select(l => l.Id).Append("l999").ToArray();
        var artwork = d.AllPieces.SelectMany(p => p.AllArtwork).Select(a => a.Id).ToArray();
        var plies = d.AllPlies.Select(y => y.Id).Append("y999").ToArray();
        T One<T>(params T[] of) => of[r.Next(of.Length)];
        ImmutableArray<string> Some(params string[] of) => [.. Enumerable.Range(0, r.Next(1, 4)).Select(_ => One(of)).Distinct()];
        ImmutableArray<string> SomeLines() => Some(lines);
        ImmutableArray<string> Carried() => r.Next(3) == 0 && artwork.Length > 0 ? Some(artwork) : SomeLines();
        Operation Op() => One([.. Operations.All]);
        Treatment AnyTreatment() => r.Next(11) switch
        {
            0 => new FilledHoles(r.NextDouble() * 300),
            1 => new FilledHoles(0) { Rings = [r.Next(4)] },
            2 => new SizedHoles(Length.FromMm(Mm(3))),
            3 => new RoundedCorners(Length.FromMm(r.NextDouble() * 9)) { Only = r.Next(2) == 0 ? [] : [r.Next(9)] },
            4 => new Rim(Length.FromMm(r.NextDouble() * 9)),
            5 => new Smoothed(Length.FromMm(r.NextDouble() * 3)),
            6 => new Simplified(Length.FromMm(r.NextDouble())),
            9 => new Bridged(Length.FromMm(0.2 + r.NextDouble() * 3), Length.FromMm(r.NextDouble() * 30), r.Next(2) == 0 ? null : r.NextDouble() * 50),
            8 => new WithoutSpecks(r.NextDouble() * 9, r.NextDouble() * 9),
            7 => new Strengthened(One(Enum.GetValues<StrengthenWay>()), new(Length.FromMm(r.NextDouble() * 3), Length.FromMm(0.1 + r.NextDouble())))
            {
                By = Length.FromMm(r.NextDouble()),
                Apart = Length.FromMm(Math.Max(0, Mm(1))),
            },
            _ => new Outset(Length.FromMm(Mm(6))) { Corners = One(Enum.GetValues<CornerStyle>()) },
        };
        Lettered AnyWords() => new(One("thank you", "von\nder Hütte", "i", ""), One("EMS Tech", "Courgette", "Nowhere"), 400, Length.FromMm(3 + r.Next(9)),
            Length.FromMm(r.Next(2)))
        {
            Align = One(Enum.GetValues<TextAlign>()),
            Bend = Length.FromMm(One(0, 30, -50)),
            Apart = Length.FromMm(One(0, 0.5)),
            Along = One(null, null, BaseLine.Inside(VectorPath.Rectangle(0, 0, 10 + r.Next(90), 50), Length.FromMm(r.Next(9)), WordsEdge.Lower))
        };
        double Mm(double most) => Math.Round((r.NextDouble() * 2 - 1) * most, r.Next(0, 12));
        return kind.Name switch
        {
            nameof(SetLineOperation) => new SetLineOperation(SomeLines(), Op()),
            nameof(SetLookOperation) => new SetLookOperation(One([.. d.Looks.Select(l => l.Key), "none"]), Op()),
            nameof(SetOutlineOperation) => new SetOutlineOperation(Some(pieces), Op(), r.Next(2) == 0, r.Next(2) == 0),
            nameof(SetFace) => new SetFace(SomeLines(), One(Face.Inner, Face.Outer)),
            nameof(SetFoldSide) => new SetFoldSide(SomeLines(), One(FoldSide.Mountain, FoldSide.Valley)),
            nameof(SetFoldsBack) => new SetFoldsBack(SomeLines(), Length.FromMm(r.NextDouble() * 4)),
            nameof(LayOnPaper) => new LayOnPaper(Length.FromMm(r.NextDouble() * 20)),
            nameof(MakePieces) => new MakePieces(SomeLines()),
            nameof(Remove) => new Remove([.. Some(pieces)[..1], .. Some(lines)[..1], .. artwork.Take(r.Next(2))]),
            nameof(LeaveOut) => new LeaveOut([.. Some(pieces)[..r.Next(0, 2)], .. SomeLines(), .. artwork.Take(r.Next(2))]),
            nameof(PutBack) => new PutBack(One([.. d.LeftOut.Select(o => o.Id), "o999"])),
            nameof(BringBeside) => new BringBeside(Extra(r.Next(3)), "more") { At = r.Next(2) == 0 ? null : new Point(Mm(90), Mm(90)) },
            nameof(TraceAgain) => new TraceAgain(One([.. d.Sources.Select(s => s.Id), "s999"]), Extra(r.Next(3))),
            nameof(Move) => new Move([.. Some(pieces), .. Carried()], Length.FromMm(Mm(50)), Length.FromMm(Mm(50))),
            nameof(Turn) => new Turn([.. Some(pieces), .. Carried()], Angle.FromDegrees(Mm(400)), r.Next(2) == 0 ? null : new Point(Mm(90), Mm(90))),
            nameof(Mirror) => new Mirror([.. Some(pieces), .. Carried()], One(MirrorAxis.Upright, MirrorAxis.Level),
                r.Next(2) == 0 ? null : new Point(Mm(90), Mm(90))),
            nameof(Treat) => new Treat(Some(pieces), AnyTreatment()),
            nameof(Strengthen) => new Strengthen(Some(pieces), new(One(Enum.GetValues<StrengthenWay>()),
                new(Length.FromMm(r.NextDouble() * 3), Length.FromMm(0.1 + r.NextDouble())))
            { By = Length.FromMm(r.NextDouble()), OfStock = r.Next(2) == 0 ? null : 1.25 }),
            nameof(Unstrengthen) => new Unstrengthen(Some(pieces)),
            nameof(AskOfPaper) => new AskOfPaper(r.Next(3) == 0 ? null : new(Length.FromMm(r.NextDouble() * 2), Length.FromMm(r.NextDouble()))),
            nameof(SetPrinting) => new SetPrinting(r.Next(4) == 0 ? null : new()
            {
                Marks = r.Next(4) == 0 ? null : One(Enum.GetValues<MarkKind>()),
                Inset = Length.FromMm(4 + 8 * r.NextDouble()),
                Bleed = Length.FromMm(r.Next(3) == 0 ? 0 : 4 * r.NextDouble()),
                BleedBy = One(Enum.GetValues<BleedBy>()),
                UnderOthers = r.Next(2) == 0 ? null : Length.FromMm(8 * r.NextDouble()),
            }),
            nameof(FillWith) when r.Next(3) == 0 => new FillWith(Some(pieces), null, APicture, r.Next(2) == 0, null) { AsOne = r.Next(2) == 0 },
            nameof(FillWith) => new FillWith(Some(pieces), new(One(Enum.GetValues<PatternKind>()), new(10, 120, 200), r.Next(2) == 0 ? null : Colour.White),
                null, false, r.Next(2) == 0 ? null : Length.FromMm(1 + 30 * r.NextDouble())),
            nameof(TakeBack) => new TakeBack(Make(One(typeof(Move), typeof(Remove), typeof(Copies), typeof(Rename)), d, r).Make(d), d, "that"),
            nameof(ReplacePicture) => new ReplacePicture(One([.. artwork, "a999"]), APicture),
            nameof(PrintOn) => new PrintOn(One([.. artwork, "a999"]), Some(pieces)),
            nameof(PrintTogether) => new PrintTogether(Some(pieces)),
            nameof(CutAgain) => new CutAgain(One(pieces)),
            nameof(SetBridges) => new SetBridges(Some(pieces), r.Next(3) == 0 ? null : new(r.Next(1, 9), Length.FromMm(0.1 + 2 * r.NextDouble())),
                r.Next(2) == 0, r.Next(2) == 0),
            nameof(ScoreTwice) => new ScoreTwice([.. SomeLines()], r.Next(3) == 0 ? null : Length.FromMm(0.3 + 5 * r.NextDouble())),
            nameof(SetPasses) => new SetPasses([.. SomeLines(), .. Some(pieces)], One((int?)null, 1, 3, 40)),
            nameof(SetPen) => new SetPen([.. SomeLines()], One((Colour?)null, Colour.Black), One((Length?)null, Length.FromMm(0.3), Length.FromMm(90))),
            nameof(SetFoil) => new SetFoil([.. SomeLines()], One(null, "Copper foil", ""), One((Length?)null, Length.FromMm(0.4))),
            nameof(SetInfill) => new SetInfill([.. SomeLines()], r.Next(3) == 0 ? null : new((InfillKind)r.Next(4), Angle.FromDegrees(r.Next(180)))),
            nameof(SetDashes) => new SetDashes([.. SomeLines(), .. Some(pieces)],
                new(Length.FromMm(0.3 + 4 * r.NextDouble()), Length.FromMm(0.2 + 2 * r.NextDouble()))),
            nameof(SetInk) => new SetInk([.. SomeLines()], new(r.Next(2) == 0 ? null : new(10, 120, 200), One(FillRule.EvenOdd, FillRule.NonZero),
                new(new(200, 30, 40), Length.FromMm(0.1 + r.NextDouble()), LineCap.Round, LineJoin.Bevel, 4, r.Next(2) == 0 ? [] : [Length.FromMm(1.5)],
                    Length.Zero))),
            nameof(LayTreated) => new LayTreated(Some(pieces), [AnyTreatment(), .. r.Next(2) == 0 ? [] : new[] { AnyTreatment() }], r.Next(0, 4), "frame",
                r.Next(2) == 0),
            nameof(AddPiece) => new AddPiece(r.Next(3) == 0 ? AnyWords() : r.Next(3) == 0 ? new Drawn(VectorPath.Rectangle(1, 1, 20 * r.NextDouble(), 9))
                : new Made(One([.. Makers.All.Select(m => m.Name)]), ImmutableSortedDictionary<string, double>.Empty.Add("width", 40 * r.NextDouble())),
                new(Angle.FromDegrees(r.Next(360)).Normal, new(Mm(90), Mm(90)), r.Next(2) == 0), "New")
            { IsThing = r.Next(3) == 0 },
            nameof(AddLine) => r.Next(2) == 0 ? new AddLine(VectorPath.Polyline(new(Mm(90), 3), new(40, Mm(90))), null, Op())
            { Face = One(Face.Inner, Face.Outer) }
                : new AddLine(null, new(AnyWords(), Place.Own.Moved(new(Mm(60), Mm(60)))), Op()),
            nameof(SetWords) => new SetWords(One([.. d.Pieces.Where(p => p.Shape is Lettered).Select(p => p.Id),
                .. d.Lines.Where(l => l.Line.Words is not null).Select(l => l.Id), "p999"]), AnyWords()),
            nameof(RingOfCopies) => new RingOfCopies(Some(pieces), r.Next(1, 6), new(Mm(60), Mm(60)), r.Next(2) == 0),
            nameof(Begin) => new Begin(r.Next(2) == 0 ? null : CardBase.Of(BaseKind.Tent, Length.FromMm(90), Length.FromMm(60))),
            nameof(AddFold) => new AddFold(One(pieces), One(Enum.GetValues<BoxSide>()), r.Next(2) == 0 ? null : Length.FromMm(Mm(60)),
                One(Operation.Score, Operation.Perforate), One(FoldSide.Mountain, FoldSide.Valley), Length.FromMm(r.Next(3)))
            { Panel = r.Next(3) == 0 ? r.Next(3) : null },
            nameof(AddMats) => new AddMats(One(pieces), Length.FromMm(r.Next(12))),
            nameof(AddJoined) => new AddJoined(One(pieces), [.. d.Pieces.Take(1).SelectMany(p => Placing.Along(p.OnCard.Bounds, One(Enum.GetValues<BoxSide>()),
                [(20, 20), (10, 10)], One(Enum.GetValues<OverEdge>()), r.Next(2) == 0))
                .Select(at => new PlacedShape(new Made("waves", ImmutableSortedDictionary<string, double>.Empty.Add("width", 30)), at))]),
            nameof(Series) => new Series([Make(typeof(Move), d, r), Make(typeof(AddBase), d, r)], "two things"),
            nameof(TakeApart) => new TakeApart(One([.. lines, .. pieces])),
            nameof(AddBase) => new AddBase(CardBase.Of(One(Enum.GetValues<BaseKind>()), Length.FromMm(5 + 150 * r.NextDouble()), Length.FromMm(40 + Mm(20)))
                with
            { Corner = Length.FromMm(r.Next(9)), PanelCount = r.Next(2, 7) }, new(Mm(90), Mm(90))),
            nameof(AddHole) => new AddHole(One(pieces), r.Next(4) == 0 ? AnyWords() : new Made("ellipse", ImmutableSortedDictionary<string, double>.Empty
                .Add("width", 40 * r.NextDouble())), new(Angle.FromDegrees(r.Next(360)).Normal, new(Mm(90), Mm(90)), r.Next(2) == 0)),
            nameof(SetGap) => new SetGap(One(pieces), One(pieces), Length.FromMm(r.Next(9))),
            nameof(CloseLines) => new CloseLines(SomeLines(), Length.FromMm(r.Next(2) == 0 ? 1 : 200), r.Next(2) == 0),
            nameof(Untreat) => new Untreat(One([.. d.Pieces.Where(p => p.Treatments.Length > 0).Select(p => p.Id), "p999"]), r.Next(-1, 2)),
            nameof(NamePanel) => new NamePanel(One(pieces), new(r.NextDouble() * 100, r.NextDouble() * 100), One("front", "", "back")),
            nameof(MovePly) => new MovePly(One(plies), r.Next(-2, 12)),
            nameof(PutOnPly) => new PutOnPly(Some(pieces), One(plies)),
            nameof(PutOnNewPly) => new PutOnNewPly(Some(pieces)),
            nameof(LayInFront) => new LayInFront(Some(pieces), r.Next(2) == 0),
            nameof(SetFoam) => new SetFoam(One(plies), Length.FromMm(r.Next(-1, 5))),
            nameof(Rename) => new Rename(One([.. pieces, .. plies]), "Name " + r.Next(9)),
            nameof(AssignStock) => new AssignStock(Some(pieces), One("", "snow")),
            nameof(SetNumber) => new SetNumber(Some(pieces), new(r.Next(-1, 4), r.Next(-1, 4))),
            nameof(SetLaying) => new SetLaying(new(Length.FromMm(r.Next(-1, 5)), (Turns)r.Next(4)) { CardsTogether = r.Next(2) == 0 }),
            nameof(SetScale) => new SetScale(20 + r.NextDouble() * 300),
            nameof(ApplyRules) => new ApplyRules(SourceRules
                .From(d, "Hut press") with
            { Looks = [.. d.Looks.Select(l => new LookRule(SourceRules.RuleOf(l), Op()))], })
            { By = "its folder" },
            nameof(TakeRulesBack) => new TakeRulesBack(),
            nameof(Become) => new Become([.. Some([.. pieces, .. lines, .. d.Pieces.SelectMany(p => p.Edges.Select((_, i) => $"{p.Id}/{i}"))])],
                One(Enum.GetValues<Meaning>())),
            nameof(Settle) => new Settle([.. Some(pieces), .. SomeLines()]),
            nameof(JoinLines) => new JoinLines([.. SomeLines(), .. SomeLines()]),
            nameof(JoinFolds) => new JoinFolds([.. SomeLines(), .. SomeLines()]),
            nameof(JoinPanels) => new JoinPanels([.. pieces]),
            nameof(SwapBelow) => new SwapBelow(One(pieces), One(pieces)),
            nameof(CarryBy) => new CarryBy(SomeLines(), One(pieces)),
            nameof(JoinPieces) => new JoinPieces([.. Some(pieces), .. Some(pieces)])
            {
                CentreFirst = r.Next(3) == 0,
                PushTogether = r.Next(2) == 0,
                SmoothUnder = Length.FromMm(r.Next(3) == 0 ? 1 : 0),
            },
            nameof(TakeAway) => new TakeAway(Some(pieces), Some(pieces)),
            nameof(KeepOverlap) => new KeepOverlap([.. Some(pieces), .. Some(pieces)]),
            nameof(Divide) => new Divide([.. Some(pieces), .. Some(pieces)]),
            nameof(CutApart) => new CutApart(Some(pieces), VectorPath.Polyline(new(Mm(90), Mm(90)), new(50 + Mm(40), 50 + Mm(40)))),
            nameof(CutAlong) => new CutAlong(Some(pieces), One(pieces)),
            nameof(Punch) => new Punch(One(pieces)),
            nameof(Resize) => new Resize([.. Some(pieces), .. Carried()], r.Next(3) == 0 ? null : Length.FromMm(0.05 + r.NextDouble() * 90),
                r.Next(3) == 0 ? null : Length.FromMm(r.NextDouble() * 90), r.Next(2) == 0, new(r.Next(3) / 2.0, r.Next(3) / 2.0)),
            nameof(Align) => new Align([.. Some(pieces), .. Carried()], One("page", "all", One(pieces), One(pieces) + "#" + r.Next(3)),
                r.Next(3) == 0 ? null : One(Enum.GetValues<AlignAt>()), r.Next(3) == 0 ? null : One(Enum.GetValues<AlignAt>()), Length.FromMm(Mm(9)))
            { AsOne = r.Next(2) == 0 },
            nameof(Spread) => new Spread([.. Some(pieces), .. Some(pieces), .. Some(pieces)], r.Next(2) == 0),
            nameof(Copies) => new Copies(Some(pieces), r.Next(0, 3), r.Next(1, 4), Length.FromMm(Mm(60)), Length.FromMm(Mm(60))),
            _ => throw new Xunit.Sdk.XunitException($"There is no maker for the edit {kind.Name}: add one, so that all properties hold for it too."),
        };
    }

    /// <summary>A picture of a card, for designs that were traced.</summary>
    private static class Writing
    {
        public static readonly Lazy<byte[]> PaperPng = new(() => Core.Writing.Paper.Render(
            Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='60mm' height='30mm' viewBox='0 0 60 30'><rect width='60' height='30' "
                + "fill='#fff'/><circle cx='15' cy='15' r='9' fill='#0a6'/><rect x='36' y='6' width='18' height='18' fill='#c22'/></svg>"), 100,
                Core.Writing.DrawAs.Artwork).Png);
    }
}

internal static class Examples
{
    /// <summary>One of what a generator makes.</summary>
    public static T Example<T>(this Gen<T> gen, Random r) => gen.Generate(new PCG((uint)r.Next()), null, out _);
}

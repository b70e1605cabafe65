using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Runs;

/// <summary>A card with some lines of any operation on either side of it, with pens and foils of several colours, on sheets of two papers.</summary>
public static class AnyPlan
{
    private static readonly Operation[] Kinds = [Operation.Draw, Operation.Foil, Operation.Deboss, Operation.Score, Operation.Perforate, Operation.Cut];

    public static (RunPlan Plan, DocketLayout Layout) Of(Random random, Machine machine, IReadOnlyList<Tool> tools)
    {
        var design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 90, 70)), Place.Own, "").Apply(Design.Blank(Length.FromMm(200), Length.FromMm(100)));
        // Many sheets without foil and worked on one side only can be done one tool first.
        var plain = random.Next(4) == 0;
        for (var k = random.Next(1, 6); k > 0; k--)
        {
            double x = 5 + 70 * random.NextDouble(), y = 5 + 50 * random.NextDouble();
            design = new AddLine(VectorPath.Rectangle(x, y, 5, 6), null, Operation.Draw).Apply(design);
            var id = design.Lines[^1].Id;
            var operation = Kinds[random.Next(Kinds.Length)];
            if (plain && operation == Operation.Foil) operation = Operation.Draw;
            design = new SetLineOperation([id], operation).Apply(design);
            if (operation == Operation.Draw && random.Next(2) == 0) design = new SetPen([id], new Colour(122, 31, 43), null).Apply(design);
            if (operation == Operation.Foil && random.Next(2) == 0)
                design = new SetFoil([id], random.Next(2) == 0 ? "Gold foil" : "Copper foil", null).Apply(design);
            if (operation != Operation.Cut && !plain && random.Next(3) == 0) design = new SetFace([id], Face.Inner).Apply(design);
        }

        var size = new SheetSize(Length.FromMm(200), Length.FromMm(150), 9, Length.FromMm(6));
        var printed = plain || random.Next(3) > 0 ? null
            : new PrintedSheet(new((MarkKind)random.Next(3), size.Width, size.Height, Length.FromMm(10)), Length.FromMm(2));
        SheetPlan Sheet(int n) => n % 2 == 0 ? new("s", "ivory card", size, [new(design.Pieces[0].Id, n, Affine.Move(20, 20))], 0.5)
            : new("t", "slate card", size, [new(design.Pieces[0].Id, n, Affine.Move(20, 20))], 0.5);
        var layout = new DocketLayout(3, Length.FromMm(2),
            [.. Enumerable.Range(1, random.Next(1, plain ? 8 : 4)).Select(Sheet).Select(s => s with { Printed = random.Next(2) == 0 ? printed : null })], []);
        var settings = tools.SelectMany(t => new[] { "s", "t" }.Select(s => new MaterialSetting(s, t.Id, 1 + random.Next(2), 100, 0)
        {
            Depth = t.Operation == Operation.Cut ? Length.FromMm(0.05 * random.Next(4, 8)) : null,
        })).ToList();
        return (RunPlanner.Plan(design, layout, machine, settings, tools), layout);
    }
}

using System.CommandLine;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Lettering;

namespace Falzkunst.Cli;

/// <summary>Writes the help: every option, with an example.</summary>
internal static class Help
{
    private static readonly Dictionary<string, string[]> Examples = new(StringComparer.Ordinal)
    {
        ["read"] = ["./falzkunst read card.svg", "./falzkunst read parts.zip --out card.falz.json"],
        ["render"] = ["./falzkunst render card.svg --png card.png --dpi 96 --as operations"],
        ["check"] = ["./falzkunst check card.svg --min-width 0.8 --min-gap 0.5"],
        ["strengthen"] =
        [
            "./falzkunst strengthen card.svg --min-width 0.8 --min-gap 0.5 --out strong.svg",
            "./falzkunst strengthen words.svg --min-width 0.8 --min-gap 0.5 --apart 0.6 --out strong.svg",
            "./falzkunst strengthen lace.svg --min-width 0.8 --min-gap 0.5 --holes 0.2 --out strong.svg",
        ],
        ["edit"] =
        [
            "./falzkunst edit card.svg --do steps.json --out card.falz.json --svg card.svg", "",
            "steps.json is a list. A piece is named by its id, or by \"$0\": the first that step 0 made (\"$0.1\": its second).",
            "  {\"do\":\"move\",\"of\":[\"p1\"],\"by\":[10,-2.5]}            {\"do\":\"turn\",\"of\":[\"p1\"],\"degrees\":30,\"about\":[50,50]}",
            "  {\"do\":\"mirror\",\"of\":[\"p1\"],\"axis\":\"upright|level\"}   {\"do\":\"join\",\"of\":[\"p1\",\"p2\"]}",
            "  {\"do\":\"size\",\"of\":[\"p1\"],\"width\":80,\"keepRatio\":true,\"from\":\"left top\"}",
            "  {\"do\":\"copy\",\"of\":[\"p1\"],\"rows\":2,\"columns\":3,\"by\":[60,80]}",
            "  {\"do\":\"align\",\"of\":[\"p2\"],\"to\":\"p1|page\",\"where\":\"centre middle\",\"inset\":0}",
            "  {\"do\":\"takeAway\",\"from\":\"p1\",\"what\":[\"p2\"]}        {\"do\":\"overlap\",\"of\":[\"p1\",\"p2\"]}",
            "  {\"do\":\"divide\",\"of\":[\"p1\",\"p2\"]}                   {\"do\":\"cutApart\",\"of\":[\"p1\"],\"along\":\"M0 50L100 60\"}",
            "  {\"do\":\"punch\",\"with\":\"p2\"}                        {\"do\":\"outset\",\"of\":[\"p1\"],\"by\":-2}",
            "  {\"do\":\"fillHoles\",\"of\":[\"p1\"],\"underMm2\":20}        {\"do\":\"operation\",\"of\":[\"l1\"],\"is\":\"score\"}",
            "  {\"do\":\"outset\",\"of\":[\"p1\"],\"by\":-6,\"corners\":\"round|sharp|bevel\",\"asNew\":true,\"times\":3}",
            "  {\"do\":\"resizeHoles\",\"of\":[\"p1\"],\"by\":-0.3}        {\"do\":\"roundCorners\",\"of\":[\"p1\"],\"radius\":3}",
            "  {\"do\":\"rim\",\"of\":[\"p1\"],\"width\":4}              {\"do\":\"backing\",\"of\":[\"p1\"],\"by\":3}",
            "  {\"do\":\"smooth\",\"of\":[\"p1\"],\"under\":0.4}          {\"do\":\"simplify\",\"of\":[\"p1\"],\"tolerance\":0.05}",
            "  {\"do\":\"strengthen\",\"of\":[\"p1\"],\"minWidth\":0.8,\"minGap\":0.5,\"apart\":0.6}",
            "  {\"do\":\"bridge\",\"of\":[\"p1\"],\"width\":1,\"within\":5,\"underMm2\":4}     (without underMm2 all parts are joined)",
            "  {\"do\":\"close\",\"of\":[\"l3\"],\"within\":0.5,\"asPiece\":true}",
            "  {\"do\":\"add\",\"shape\":\"rectangle|ellipse|polygon|star|slot\",\"at\":[10,10],\"width\":40,\"height\":30,\"corner\":5,\"sides\":6}",
            "  {\"do\":\"add\",\"shape\":\"path\",\"path\":\"M0 0H9V9Z\"}     (closed: a piece; open: a line to \"is\": draw)",
            "  {\"do\":\"text\",\"words\":\"thank you\",\"face\":\"EMS Tech\",\"capHeight\":8,\"at\":[20,30],\"align\":\"left|centre|right\",",
            "   \"spacing\":0,\"wordSpacing\":0,\"lineSpacing\":0,\"bend\":0,\"apart\":0,\"asWideAs\":80,\"is\":\"draw\"}",
            "   or instead of \"at\": \"along\":\"p1\",\"edge\":\"upper|lower\",\"gap\":4}     (round the edge of a piece)",
            "  {\"do\":\"cutApart\",\"of\":[\"p1\"],\"edgeOf\":\"p2\"}    (along the edge of another piece)",
            "  {\"do\":\"undo\"}                                     {\"do\":\"redo\"}",
            "Faces with outlines (a piece): " + string.Join(", ", Faces.All.Where(f => !f.IsSingleLine).Select(f => f.Name).Distinct()),
            "Faces of single lines (a line): " + string.Join(", ", Faces.All.Where(f => f.IsSingleLine).Select(f => f.Name)),
        ],
        ["make"] =
        [
            "./falzkunst make base --kind tent --format A6 --out base.falz.json",
            "./falzkunst make base --kind accordion --panels 5 --width 70 --height 100 --folds perforate --corner 4 --svg base.svg",
            "./falzkunst make base --kind side --flat --width 210 --height 148",
            "", "Formats: " + string.Join(", ", CardFormats.All.Select(f => f.Name)),
        ],
        ["trace"] = ["./falzkunst trace logo.png --mode flat --out logo.svg", "./falzkunst trace boot.jpg --mode colours --colours 5 --dpi 300 --out boot.svg"],
        ["marks"] = ["./falzkunst marks --sheet 210x297 --inset 8 --pdf marks.pdf", "./falzkunst marks --sheet 305x305 --inset 10 --kind dots --pdf dots.pdf"],
        ["register"] =
        [
            "./falzkunst register --sheet 210x297 --inset 8 --scan sheet.png --dpi 300",
            "./falzkunst register --sheet 210x297 --inset 8 --kind squares --photo --scan sheet.jpg",
        ],
        ["nest"] = ["./falzkunst nest request.json --seconds 10 --seed 7 --out layout.json --svg sheets/"],
        ["plan"] = ["./falzkunst plan card.svg --machine \"Kammer 30\" --copies 12"],
        ["plot"] = ["./falzkunst plot card.svg --machine kammer-30 --format hpgl --out files/",
            "./falzkunst plot card.svg --machine kammer-30 --format gcode --steps --out files/",
            "./falzkunst plot badges.falz.json --machine kammer-30 --copies 3 --format pdf --marks brackets --bleed 2 --out files/"],
    };

    public static int Write(RootCommand root, string? about)
    {
        using var o = new StreamWriter(CommandLine.Output, leaveOpen: true);
        var command = root.Subcommands.FirstOrDefault(c => c.Name == about);
        if (about is not null && command is null)
        {
            CommandLine.Error.WriteLine($"There is no command \"{about}\". There are {string.Join(", ", root.Subcommands.Select(c => c.Name))} and help.");
            return CommandLine.Wrong;
        }

        if (command is null)
        {
            o.WriteLine(root.Description);
            o.WriteLine();
            foreach (var c in root.Subcommands) o.WriteLine($"  ./falzkunst {c.Name,-8} {c.Description}");
            o.WriteLine("  ./falzkunst help COMMAND  every option of a command, with an example");
            o.WriteLine();
            o.WriteLine("The result is one JSON object on stdout. Exit codes: 0 done, 2 the input or an argument is wrong, 3 out of time.");
            return CommandLine.Done;
        }

        o.WriteLine(command.Description);
        o.WriteLine();
        foreach (var a in command.Arguments) o.WriteLine($"  {a.Name,-22} {a.Description}");
        foreach (var p in command.Options.Where(p => !p.Hidden && p.Name != "--help" && p.Name != "--version"))
            o.WriteLine($"  {p.Name + (p.ValueType == typeof(bool) ? "" : " " + p.HelpName),-22} {p.Description}{(p.Required ? " (needed)" : "")}");
        o.WriteLine();
        foreach (var example in Examples[command.Name]) o.WriteLine($"  {example}");
        return CommandLine.Done;
    }
}

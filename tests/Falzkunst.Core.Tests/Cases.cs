using System.Runtime.CompilerServices;
using CsCheck;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading;

namespace Falzkunst.Core.Tests;

/// <summary>The folder of small files, each named after the one thing that it tests.</summary>
internal static class Cases
{
    public static string Folder { get; } = Path.Combine(Root(), "tests", "cases");

    public static string Demo { get; } = Path.Combine(Root(), "demo");

    public static TheoryData<string> Names(string folder) =>
        [.. Directory.GetFiles(Path.Combine(Folder, folder)).Select(f => Path.GetFileNameWithoutExtension(f)!).Order()];

    public static string Text(string folder, string name) => File.ReadAllText(Path.Combine(Folder, folder, name + ".svg"));

    public static Design Read(string svg) => DesignReader.Read(System.Text.Encoding.UTF8.GetBytes(svg));

    public static Design DemoCard() => DesignReader.Read(File.ReadAllBytes(Path.Combine(Demo, "fernblick-thank-you.svg")));

    /// <summary>How many cases a generator makes, and from which seed, as a variable of its own says: "40@1". Where it says nothing: few, so that a run of all
    /// tests is short, or, with FALZKUNST_LARGE=1, many. Seeds that were tuned with are others than those that are reported.</summary>
    /// <param name="large">Null where the few are enough.</param>
    public static (int Count, int Seed) Seeds(string variable, string few, string? large = null)
    {
        var usual = Environment.GetEnvironmentVariable("FALZKUNST_LARGE") == "1" ? large ?? few : few;
        return (Environment.GetEnvironmentVariable(variable) ?? usual).Split('@') is [var n, var s] ? (int.Parse(n), int.Parse(s))
            : throw new FormatException($"{variable} is a number of cases, @, and the first seed.");
    }

    /// <summary>The seeds themselves, for a theory with a case each.</summary>
    public static TheoryData<int> EachSeed(string variable, string few, string? large = null) =>
        Seeds(variable, few, large) is var (count, first) ? [.. Enumerable.Range(first, count)] : [];

    public static Gen<T> Any<T>(params T[] items) => Gen.Int[0, items.Length - 1].Select(i => items[i]);

    private static string Root([CallerFilePath] string here = "") => Path.GetFullPath(Path.Combine(Path.GetDirectoryName(here)!, "..", ".."));
}

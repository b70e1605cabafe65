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

    /// <summary>How many cases, and from which seed, as a variable says: "40@1". Seeds that were tuned with are others than those that are reported.</summary>
    /// <param name="usual">Where nothing is said.</param>
    public static (int Count, int Seed) Seeds(string variable, string usual) =>
        (Environment.GetEnvironmentVariable(variable) ?? usual).Split('@') is [var n, var s] ? (int.Parse(n), int.Parse(s))
            : throw new FormatException($"{variable} is a number of cases, @, and the first seed.");

    public static Gen<T> Any<T>(params T[] items) => Gen.Int[0, items.Length - 1].Select(i => items[i]);

    private static string Root([CallerFilePath] string here = "") => Path.GetFullPath(Path.Combine(Path.GetDirectoryName(here)!, "..", ".."));
}

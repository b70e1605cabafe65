namespace Falzkunst.Core.Runs;

/// <summary>The invented machines that the stand-ins play.</summary>
public static class Machines
{
    public static Machine Kammer30 { get; } = new("kammer-30", "Kammer 30", Length.FromMm(305), Length.FromMm(305), 2, 150, 300, 2500, 0.08)
    {
        MostForceGrams = 600,
    };

    public static Machine Kammer60 { get; } = new("kammer-60", "Kammer 60", Length.FromMm(600), Length.FromMm(2000), 1, 400, 600, 6000, 0.06)
    {
        IsRoll = true,
        Language = MachineLanguage.Gcode,
        StepsPerMm = 100,
        MostForceGrams = 800,
    };

    public static Machine Kammer15 { get; } = new("kammer-15", "Kammer 15", Length.FromMm(150), Length.FromMm(210), 1, 100, 150, 1500, 0.1)
    {
        ReadsMarks = false,
        MostForceGrams = 350,
    };

    public static IReadOnlyList<Machine> All { get; } = [Kammer30, Kammer60, Kammer15];

    /// <summary>By id or name, however it is written: "kammer-30", "Kammer 30", "30".</summary>
    public static Machine? Find(string text)
    {
        static string Plain(string t) => new([.. t.ToLowerInvariant().Where(char.IsAsciiLetterOrDigit)]);
        var wanted = Plain(text);
        return All.FirstOrDefault(m => Plain(m.Id) == wanted)
            ?? All.FirstOrDefault(m => wanted.Length > 0 && Plain(m.Id).EndsWith(wanted, StringComparison.Ordinal));
    }
}

using System.Text.Json;
using Falzkunst.Core.Files;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Documents;

/// <summary>A plan of a run, and what a machine holds, as JSON (RFC 8259), paths as SVG path data to 1e-5 mm: a hundredth of what a machine can step.</summary>
public static class RunDocument
{
    public static byte[] Write(RunPlan plan) => JsonSerializer.SerializeToUtf8Bytes(plan, FalzFile.Options);

    public static string WriteSetup(MachineSetup setup) => JsonSerializer.Serialize(setup, FalzFile.Options);

    /// <summary>What a machine held; null where that can't be read, so that all is asked for anew.</summary>
    public static MachineSetup? ReadSetup(string text)
    {
        try
        {
            return JsonSerializer.Deserialize<MachineSetup>(text, FalzFile.Options);
        }
        catch (Exception e) when (Dress.IsUnreadable(e))
        {
            return null;
        }
    }

    public static string WriteWishes(RunWishes wishes) => JsonSerializer.Serialize(wishes, FalzFile.Options);

    /// <summary>How a docket is run; as its papers say where that can't be read.</summary>
    public static RunWishes ReadWishes(string text)
    {
        try
        {
            return text.Length == 0 ? RunWishes.None : JsonSerializer.Deserialize<RunWishes>(text, FalzFile.Options) ?? RunWishes.None;
        }
        catch (Exception e) when (Dress.IsUnreadable(e))
        {
            return RunWishes.None;
        }
    }

    /// <exception cref="UnreadableFileException">These bytes are no plan.</exception>
    public static RunPlan Read(ReadOnlySpan<byte> text)
    {
        try
        {
            return JsonSerializer.Deserialize<RunPlan>(text, FalzFile.Options) ?? throw new JsonException();
        }
        catch (Exception e) when (Dress.IsUnreadable(e))
        {
            throw new UnreadableFileException("the plan of the run is damaged", e);
        }
    }
}

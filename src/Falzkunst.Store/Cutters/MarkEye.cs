using System.Text.Json;

namespace Falzkunst.Store.Cutters;

/// <summary>What a machine's eye saw.</summary>
/// <param name="X">Where the picture's upper left corner lies on the mat, in mm from the corner where a sheet's belongs.</param>
public sealed record SeenPart(byte[] Picture, double X, double Y, double PerMm);

/// <summary>The machine answers that what is asked for is not there; the message says what it sees instead.</summary>
public sealed class NothingThereException(string message) : IOException(message);

/// <summary>
/// The eye of a machine, which sees a small part of its mat at a time, and the printer that stands beside it: asked as a <see cref="CutterLine"/> asks
/// what was done, with one JSON object a line.
/// </summary>
public sealed class MarkEye(MachineRow machine)
{
    private static readonly TimeSpan PrintPatience = TimeSpan.FromSeconds(60), LookPatience = TimeSpan.FromSeconds(15);

    /// <summary>What a printed sheet is called beside the machine.</summary>
    /// <param name="sheet">Its number in the layout, from 1.</param>
    public static string NameOf(Guid layoutId, int sheet) => $"{layoutId:N}/{sheet}";

    /// <summary>Prints a page and lays the sheet on the mat.</summary>
    /// <param name="name">By which it can be laid on the mat again.</param>
    /// <param name="seed">Of the errors that this sheet gets.</param>
    /// <exception cref="IOException">There is no such printer, or it could not; the message is a part of a sentence.</exception>
    public Task Print(byte[] pdf, string name, int seed, CancellationToken cancel) =>
        Ask(new { @do = "print", pdf = Convert.ToBase64String(pdf), name, seed }, PrintPatience, cancel);

    /// <summary>Has a sheet that was printed laid on the mat, where hands stand by that do it; otherwise a person has done so.</summary>
    public async Task Lay(string name, CancellationToken cancel)
    {
        try
        {
            await Ask(new { @do = "lay", name }, PrintPatience, cancel);
        }
        catch (NothingThereException)
        {
            // No hands, or no such sheet: what lies on the mat is what is read.
        }
    }

    public async Task<SeenPart> Glimpse(double x, double y, double width, double height, CancellationToken cancel) =>
        Part(await Ask(new { @do = "glimpse", x, y, width, height }, LookPatience, cancel));

    /// <summary>All of the sheet in colour, to show it to people.</summary>
    public async Task<SeenPart> Photograph(CancellationToken cancel) => Part(await Ask(new { @do = "photograph" }, LookPatience, cancel));

    /// <summary>A scan of the sheet with the cuts that were made in it, by the scanner beside the machine; null where there is none.</summary>
    public async Task<SeenPart?> Scan(CancellationToken cancel)
    {
        try
        {
            return Part(await Ask(new { @do = "scan" }, LookPatience, cancel));
        }
        catch (NothingThereException)
        {
            return null;
        }
    }

    private async Task<JsonElement> Ask(object request, TimeSpan patience, CancellationToken cancel)
    {
        if (machine.RecordPort is not { } port) throw new IOException($"{machine.Name} has no eye that could be asked");
        var answer = await Wire.Told<object>(port, request, patience, cancel);
        if (answer is not JsonElement { ValueKind: JsonValueKind.Object } said) throw new IOException("the machine answers what nobody can read");
        return said.TryGetProperty("problem", out var problem) ? throw new NothingThereException(problem.GetString() ?? "nothing") : said;
    }

    private static SeenPart Part(JsonElement said)
    {
        try
        {
            return new(said.GetProperty("picture").GetBytesFromBase64(), said.GetProperty("x").GetDouble(), said.GetProperty("y").GetDouble(),
                said.GetProperty("perMm").GetDouble());
        }
        catch (Exception e) when (e is KeyNotFoundException or InvalidOperationException or FormatException)
        {
            throw new IOException("the machine answers what nobody can read", e);
        }
    }
}

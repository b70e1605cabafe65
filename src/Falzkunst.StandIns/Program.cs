using System.Globalization;
using Falzkunst.StandIns;

// Usage: falzkunst-standins --port 7430 --factor 20 --mat 305x305 --holders 2 --speed 150 --travel 300 --acceleration 2500 --lift 0.08
//   --swivels 6=0.9 --heats 2=300 --tears-at 600 --shifts-at 400 --faults 5000 --seed 1
var options = new Dictionary<string, string>(StringComparer.Ordinal);
var verb = args is ["print" or "photograph", _, ..] ? args[0] : null;
for (var i = verb is null ? 0 : 2; i + 1 < args.Length; i += 2) options[args[i]] = args[i + 1];
if (verb is not null) return await PrintCommand.Run(verb, args[1], options);
double Number(string name, double otherwise) => options.TryGetValue(name, out var t) && double.TryParse(t, CultureInfo.InvariantCulture, out var v) && v > 0
    ? v : otherwise;
IReadOnlyDictionary<int, double> ByPen(string name) => options.GetValueOrDefault(name, "").Split(',', StringSplitOptions.RemoveEmptyEntries)
    .Select(p => p.Split('=')).ToDictionary(p => int.Parse(p[0], CultureInfo.InvariantCulture), p => double.Parse(p[1], CultureInfo.InvariantCulture));
var mat = options.GetValueOrDefault("--mat", "305x305").Split('x');
var cutter = new Cutter(new CutterSettings(
    double.Parse(mat[0], CultureInfo.InvariantCulture), double.Parse(mat[1], CultureInfo.InvariantCulture),
    (int)Number("--holders", 2), new(Number("--speed", 150), Number("--travel", 300), Number("--acceleration", 2500), Number("--lift", 0.08)),
    Number("--factor", 20))
{
    Swivels = ByPen("--swivels"),
    Heats = ByPen("--heats"),
    TearsAtGrams = Number("--tears-at", double.PositiveInfinity),
    ShiftsAtMmS = Number("--shifts-at", double.PositiveInfinity),
    FaultsEveryMm = Number("--faults", double.PositiveInfinity),
    Seed = (int)Number("--seed", 1),
    ToolOff = options.GetValueOrDefault("--tool-off", "0,0").Split(',') is [var right, var down]
        ? (double.Parse(right, CultureInfo.InvariantCulture), double.Parse(down, CultureInfo.InvariantCulture)) : default,
    // Nobody stands beside a machine that is not there.
    Hands = true,
});
using var cancel = new CancellationTokenSource();
Console.CancelKeyPress += (_, e) =>
{
    e.Cancel = true;
    cancel.Cancel();
};
using var term = System.Runtime.InteropServices.PosixSignalRegistration.Create(System.Runtime.InteropServices.PosixSignal.SIGTERM, c =>
{
    c.Cancel = true;
    cancel.Cancel();
});
try
{
    await using var server = new CutterServer(cutter, (int)Number("--port", 7430));
    Console.WriteLine($"cutter stand-in: HPGL on 127.0.0.1:{server.Port}, hands and eyes on 127.0.0.1:{server.ControlPort}");
    await server.RunAsync(cancel.Token);
}
catch (OperationCanceledException)
{
    // Asked to stop.
}
catch (System.Net.Sockets.SocketException e) when (e.SocketErrorCode == System.Net.Sockets.SocketError.AddressAlreadyInUse)
{
    Console.Error.WriteLine("cutter stand-in: somebody else listens at its ports already.");
    return 1;
}

return 0;

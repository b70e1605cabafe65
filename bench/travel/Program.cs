// How far a tool travels in the air: our order of lines against that of a routing solver (OR-tools, guided local search) on the same lines; and how long
// ordering takes. Usage: dotnet run -c Release --project bench/travel -- [seconds of the solver] [first seed] [how many sets] [0 for our part alone, 2 for
// closed lines that are cut, which begin away from their corners: the solver's do too]
using System.Collections.Immutable;
using System.Diagnostics;
using System.Globalization;
using Falzkunst.Core.Runs;
using Google.OrTools.ConstraintSolver;
using Google.Protobuf.WellKnownTypes;

CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var numbers = args.Select(int.Parse).Concat(new[] { 60, 9000, 20, 1 }.Skip(args.Length)).ToArray();
var (seconds, first, sets, judged, cuts) = (numbers[0], numbers[1], numbers[2], numbers[3] != 0, numbers[3] == 2);
ImmutableArray<VectorPath> Order(List<VectorPath> lines) => cuts ? PathOrder.OrderCuts(lines, default) : PathOrder.Order(lines, default);
foreach (var count in new[] { 5_000, 20_000 })
{
    foreach (var name in new[] { "strokes", "outlines" })
    {
        var lines = Lines(name, count, new Random(first));
        Order(Lines(name, 300, new Random(1)));
        var watch = Stopwatch.StartNew();
        var ordered = Order(lines);
        Console.WriteLine($"{count} {name}: {watch.Elapsed.TotalSeconds:0.00} s, {PathOrder.Travel(ordered, default).Mm / 1000:0.000} m in the air");
    }
}

double product = 1, worst = 0;
for (var k = 0; judged && k < sets; k++)
{
    var random = new Random(first + k);
    var name = cuts ? "outlines" : new[] { "strokes", "outlines", "letters", "rows" }[k % 4];
    var lines = Lines(name, random.Next(30, 400), random);
    var watch = Stopwatch.StartNew();
    var ours = PathOrder.Travel(Order(lines), default).Mm;
    var took = watch.Elapsed.TotalSeconds;
    var its = Solved(lines, seconds, cuts);
    (product, worst) = (product * ours / its, Math.Max(worst, ours / its));
    Console.WriteLine($"{first + k}, {lines.Count} {name}: {ours:0.0} mm in {took:0.00} s, the solver {its:0.0} mm: {ours / its:0.000}");
}

if (judged) Console.WriteLine($"geometric mean {Math.Pow(product, 1.0 / sets):0.000}, worst {worst:0.000}");

static List<VectorPath> Lines(string name, int count, Random random) => [.. Enumerable.Range(0, count).Select(i =>
{
    Point at = new(290 * random.NextDouble(), 290 * random.NextDouble()), by = new(random.NextDouble() * 16 - 8, random.NextDouble() * 16 - 8);
    return name switch
    {
        "strokes" => VectorPath.Polyline(at, at + by),
        "outlines" => VectorPath.Polygon([.. Enumerable.Range(0, 3 + i % 4).Select(c => 2 * Math.PI * c / (3 + i % 4))
            .Select(a => at + new Point(Math.Cos(a), Math.Sin(a)) * (1 + 5 * random.NextDouble()))]),
        // Words: strokes close together, in lines; and a hatch, all alike.
        "letters" => Letter(new(10 + i % 40 * 7, 20 + i / 40 * 12), random),
        _ => VectorPath.Polyline(new(10 + i % 3 * 90, 10 + i / 3 * 1.5), new(95 + i % 3 * 90 - random.Next(20), 10 + i / 3 * 1.5)),
    };
})];

static VectorPath Letter(Point at, Random random) =>
    VectorPath.Polyline([.. Enumerable.Range(0, 2 + random.Next(4)).Select(_ => at + new Point(5 * random.NextDouble(), 8 * random.NextDouble()))]);

// Each line is as many nodes as it has doors, of which one is visited.
static double Solved(List<VectorPath> lines, int seconds, bool cuts)
{
    var nodes = new List<(Point In, Point Out)> { (default, default) };
    var groups = new List<long[]>();
    foreach (var sub in lines.Select(l => l.Subpaths[0]))
    {
        var from = nodes.Count;
        if (sub.Closed) nodes.AddRange((cuts ? [.. PathOrder.PlacesToBegin(sub)] : sub.Flatten()).Select(p => (p, p)));
        else nodes.AddRange([(sub.Start, sub.End), (sub.End, sub.Start)]);
        groups.Add([.. Enumerable.Range(from, nodes.Count - from).Select(n => (long)n)]);
    }

    using var manager = new RoutingIndexManager(nodes.Count, 1, 0);
    using var routing = new RoutingModel(manager);
    // Back to the start costs nothing: the way ends anywhere.
    var cost = routing.RegisterTransitCallback((a, b) => manager.IndexToNode(b) == 0 ? 0
        : (long)Math.Round(1000 * nodes[manager.IndexToNode(a)].Out.DistanceTo(nodes[manager.IndexToNode(b)].In)));
    routing.SetArcCostEvaluatorOfAllVehicles(cost);
    foreach (var group in groups) routing.AddDisjunction([.. group.Select(n => manager.NodeToIndex((int)n))], 100_000_000, 1);
    var search = operations_research_constraint_solver.DefaultRoutingSearchParameters();
    search.FirstSolutionStrategy = FirstSolutionStrategy.Types.Value.PathCheapestArc;
    search.LocalSearchMetaheuristic = LocalSearchMetaheuristic.Types.Value.GuidedLocalSearch;
    search.TimeLimit = new Duration { Seconds = seconds };
    using var found = routing.SolveWithParameters(search);
    double sum = 0;
    var at = routing.Start(0);
    for (var next = found.Value(routing.NextVar(at)); !routing.IsEnd(next); at = next, next = found.Value(routing.NextVar(next)))
        sum += nodes[manager.IndexToNode(at)].Out.DistanceTo(nodes[manager.IndexToNode(next)].In);
    return sum;
}

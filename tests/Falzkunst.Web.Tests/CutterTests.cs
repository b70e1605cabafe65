using Falzkunst.StandIns;
using Falzkunst.Store.Cutters;
using CutterState = Falzkunst.Store.Cutters.CutterState;

namespace Falzkunst.Web.Tests;

/// <summary>The stand-in by itself: what it understands, asks for, and refuses.</summary>
public sealed class CutterTests
{
    private static readonly Motion Kammer30 = new(150, 300, 2500, 0.08);

    private static async Task<Cutter> Work(string hpgl, Action<Cutter>? before = null, Func<CutterReport, bool>? until = null)
    {
        var cutter = new Cutter(new(305, 305, 2, Kammer30, 100_000));
        cutter.LoadMat(true);
        cutter.Put(1, 6);
        before?.Invoke(cutter);
        cutter.Take(hpgl);
        using var stop = new CancellationTokenSource(Studio.Patience);
        var work = cutter.WorkAsync(stop.Token);
        until ??= r => r.State is "idle" or "failed";
        await Task.Delay(20);
        while (!until(cutter.Look()) && !stop.IsCancellationRequested) await Task.Delay(10);
        await stop.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => work);
        return cutter;
    }

    [Fact]
    public async Task Records_what_it_did_and_how_far_it_went()
    {
        var cutter = await Work("IN;PA;SP6;PU0,0;PD4000,0,4000,2000;PU;SP0;");
        var stroke = Assert.Single(cutter.Record(0));
        Assert.Equal((6, 6), (stroke.Pen, stroke.Units.Length));
        Assert.Equal(150, cutter.Look().DownMm, 6);
    }

    [Fact]
    public async Task Understands_commands_without_semicolons_and_relative_moves() =>
        Assert.Equal(new double[] { 0, 0, 400, 0, 400, 400 }.AsEnumerable(), (await Work("INSP6PU0,0PR PD400,0,0,400;PU;SP0;")).Record(0).Single().Units);

    [Fact]
    public async Task Waits_for_a_tool_that_is_in_no_holder()
    {
        var cutter = await Work("IN;SP4;PU0,0;PD400,0;PU;SP0;", null, r => r.State == "waiting-for-tool");
        Assert.Equal((4, 16), (cutter.Look().Pen, cutter.ExtendedStatus));
        Assert.Empty(cutter.Record(0));
    }

    [Fact]
    public async Task Waits_for_a_mat() =>
        Assert.Equal("waiting-for-mat", (await Work("IN;SP6;PD4,4;", c => c.LoadMat(false), r => r.State == "waiting-for-mat")).Look().State);

    [Fact]
    public async Task Refuses_to_leave_the_mat()
    {
        var cutter = await Work("IN;SP6;PU0,0;PD400,0,99999,0;PU;SP0;");
        Assert.Equal(("failed", 32), (cutter.Look().State, cutter.ExtendedStatus));
        Assert.Contains("leaves the mat", cutter.Look().Problem);
    }

    [Fact]
    public void A_full_buffer_says_so()
    {
        var cutter = new Cutter(new(305, 305, 2, Kammer30, 1));
        cutter.Take(string.Concat(Enumerable.Repeat("PU0,0;", 4000)));
        Assert.Equal(0, cutter.BufferFree);
    }

    [Fact]
    public async Task What_was_sent_is_with_the_cutter_before_it_is_looked_at()
    {
        var cutter = new Cutter(new(305, 305, 2, Kammer30, 1));
        cutter.Put(1, 6);
        cutter.LoadMat(true);
        await using var server = new CutterServer(cutter, Studio.FreePair());
        using var stop = new CancellationTokenSource(Studio.Patience);
        var running = server.RunAsync(stop.Token);
        await using (var line = await CutterLine.Open(new() { Port = server.Port, RecordPort = server.ControlPort }, stop.Token))
        {
            for (var i = 0; i < 200; i++)
            {
                await line.Abort(stop.Token);
                await line.Send("IN;PA;SP6;PU0,0;PD4000,0;PU;SP0;", 0, stop.Token);
                Assert.Equal(CutterState.Working, (await line.Status(stop.Token)).State);
            }

            Assert.Equal((await line.Remembered(stop.Token))!.Strokes, (await line.Record(0, stop.Token))!.Length);
        }

        await stop.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => running);
    }

    [Fact]
    public async Task Obeys_velocity_and_force_and_takes_its_time_at_corners_and_lifts()
    {
        static async Task<double> Seconds(string hpgl) => (await Work(hpgl)).WorkedSeconds;

        var straight = "IN;SP6;PU0,0;PD" + string.Join(',', Enumerable.Range(1, 40).Select(i => $"{i * 200},0")) + ";PU;SP0;";
        var corners = "IN;SP6;PU0,0;PD" + string.Join(',', Enumerable.Range(1, 40).Select(i => $"{(i + 1) / 2 * 200},{i / 2 * 200}")) + ";PU;SP0;";
        var lifts = "IN;SP6;" + string.Concat(Enumerable.Range(0, 40).Select(i => $"PU{i * 200},0;PD{(i + 1) * 200},0;")) + "PU;SP0;";
        var slow = straight.Replace("SP6;", "SP6;VS1;FS120;", StringComparison.Ordinal);
        var usual = await Seconds(straight);
        Assert.True(await Seconds(corners) > 1.3 * usual);
        Assert.True(await Seconds(lifts) > 2 * usual);
        Assert.True(await Seconds(slow) > 3 * usual);
    }
}

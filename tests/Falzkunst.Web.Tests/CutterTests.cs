using Falzkunst.StandIns;
using Falzkunst.Store;

namespace Falzkunst.Web.Tests;

/// <summary>The stand-in by itself: what it understands, asks for, and refuses.</summary>
public sealed class CutterTests
{
    private static async Task<Cutter> Work(string hpgl, Action<Cutter>? before = null, Func<CutterReport, bool>? until = null)
    {
        var cutter = new Cutter(new(305, 305, 2, 150, 100_000));
        cutter.LoadMat(true);
        cutter.Put(1, 6);
        before?.Invoke(cutter);
        cutter.Take(hpgl);
        using var stop = new CancellationTokenSource(TimeSpan.FromSeconds(10));
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
        var cutter = new Cutter(new(305, 305, 2, 150, 1));
        cutter.Take(string.Concat(Enumerable.Repeat("PU0,0;", 4000)));
        Assert.Equal(0, cutter.BufferFree);
    }

    [Fact]
    public async Task What_was_sent_is_with_the_cutter_before_it_is_looked_at()
    {
        var cutter = new Cutter(new(305, 305, 2, 150, 1));
        await using var server = new CutterServer(cutter, Studio.FreePair());
        using var stop = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        var running = server.RunAsync(stop.Token);
        await using (var line = await CutterLine.Open(server.Port, stop.Token))
        {
            await line.Put(1, 6, stop.Token);
            await line.LoadMat(true, stop.Token);
            for (var i = 0; i < 200; i++)
            {
                await line.Reset(stop.Token);
                await line.Send("IN;PA;SP6;PU0,0;PD4000,0;PU;SP0;", 0, stop.Token);
                Assert.Equal("working", (await line.Look(stop.Token)).State);
            }
        }

        await stop.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => running);
    }
}

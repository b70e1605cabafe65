using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Core.Layout;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

/// <summary>Dockets that are laid out together.</summary>
[Collection(Studio.Name)]
public sealed class TogetherTests(Studio studio)
{
    private static async Task<int> Docket(Visitor v, int width, int height)
    {
        await v.Get("/dockets");
        await v.Bring($"{width}x{height}.svg", Encoding.UTF8.GetBytes($"<svg xmlns='http://www.w3.org/2000/svg' width='{width}mm' height='{height}mm' "
            + $"viewBox='0 0 {width} {height}'><rect width='{width}' height='{height}' fill='#fbfbf7'/></svg>"));
        return int.Parse(Regex.Match(v.Url, @"^/dockets/(\d+)").Groups[1].Value, System.Globalization.CultureInfo.InvariantCulture);
    }

    private static async Task Join(Visitor v, int docket, params int[] with)
    {
        await v.Get($"/dockets/{docket}/lay-out");
        await v.Post($"/dockets/{docket}/lay-out?handler=Together", [.. with.Select(w => ("with", $"{w}"))]);
    }

    private async Task<T> In<T>(Func<FalzkunstContext, LaidTogether, Task<T>> work)
    {
        await using var scope = studio.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        db.StudioId = await db.Users.Where(u => u.Email == Studio.Vreni).Select(u => u.StudioId).FirstAsync();
        return await work(db, scope.ServiceProvider.GetRequiredService<LaidTogether>());
    }

    private Task<(LayoutRow Row, DocketLayout Laid)> Newest(int number) => In(async (db, _) =>
    {
        var row = await LayoutJob.Newest(db, (await db.Dockets.FirstAsync(d => d.Number == number)).Id).FirstAsync();
        return (row, LayoutJob.Read(row)!);
    });

    [Fact]
    public async Task Dockets_of_the_same_paper_share_sheets_and_part_again()
    {
        var v = await studio.SignIn();
        var (tags, envelopes, third) = (await Docket(v, 95, 140), await Docket(v, 95, 66), await Docket(v, 30, 30));
        string tagsOut = $"/dockets/{tags}/lay-out", envelopesOut = $"/dockets/{envelopes}/lay-out";
        await v.Get(tagsOut + "?handler=Companions");
        Assert.Contains($"{envelopes}, 95x66 1 piece on", v.Text);
        await Join(v, tags, envelopes);
        await v.WaitFor(tagsOut, "Go on to Run");
        Assert.Contains($"1 of docket {envelopes}", v.Text);
        var (row, laid) = await Newest(tags);
        Assert.Equal(2, Assert.Single(laid.Sheets).Pieces.Length);
        // Whoever looks for the other is told where its sheets are.
        foreach (var page in new[] { "lay-out", "run" })
        {
            await v.Get($"/dockets/{envelopes}/{page}");
            Assert.Contains($"On the sheets of docket {tags}", v.Text);
        }

        // A docket lies on the sheets of one other, which has them itself.
        await Join(v, third, envelopes);
        Assert.Contains($"Docket {envelopes} is laid out with docket {tags} already", v.Text);
        await Join(v, third, tags);
        Assert.Contains($"Docket {tags} has the sheets of docket {envelopes} already", v.Text);
        await Join(v, envelopes, third);
        Assert.Contains($"This docket is laid out with docket {tags}", v.Text);

        // A piece of the other is moved like any, and what a layout names is kept when that docket goes on.
        var guest = laid.Sheets[0].Pieces.Single(p => p.Which.PieceId != "p1");
        await v.Get($"{tagsOut}?sheet=1&laid={guest.Which}");
        Assert.Contains($", docket {envelopes}", v.Text);
        await v.Post($"{tagsOut}?sheet=1&laid={guest.Which}&handler=MovePiece", ("layout", $"{row.Id}"), ("right", "180 mm"), ("down", "250 mm"),
            ("turn", "0"));
        Assert.NotEqual(row.Id, (await Newest(tags)).Row.Id);
        await v.Get($"/dockets/{envelopes}/build?piece=p1");
        for (var i = 0; i < 2; i++)
        {
            await v.Post($"/dockets/{envelopes}/build?handler=Move", ("ids", "p1"), ("right", "1 mm"), ("down", "0"), ("gesture", "one"));
            Assert.NotNull(await In((_, together) => together.DesignOf(row, CancellationToken.None)));
        }

        await v.Get(tagsOut);
        Assert.Contains("out of date", v.Text);
        await v.Get(envelopesOut);
        await v.Post(envelopesOut + "?handler=Leave");
        await v.WaitFor(envelopesOut, "Go on to Run");
        Assert.Single((await Newest(envelopes)).Laid.Sheets);
        await v.Get(tagsOut);
        Assert.Contains("by itself", v.Text);
    }

    [Fact]
    public async Task What_several_dockets_need_is_cut_in_one_run_and_taken_from_the_drawer_once()
    {
        var v = await studio.SignIn();
        var (tags, envelopes) = (await Docket(v, 60, 40), await Docket(v, 50, 30));
        await Join(v, tags, envelopes);
        await v.WaitFor($"/dockets/{tags}/lay-out", "Go on to Run");
        var run = $"/dockets/{tags}/run";
        var before = studio.Cutter.Record(0).Length;
        var left = await In((db, _) => db.Set<SheetRow>().SumAsync(s => s.Count));
        await v.Get(run);
        await v.Post(run + "?handler=Start", ("sheet", "0"));
        await v.WaitFor(run, "Done, go on");
        await v.Post(run + "?handler=Confirm", [.. new[] { "run", "asked" }.Select(n => (n, Regex.Match(v.Page, $"name=\"{n}\" value=\"([^\"]+)\"")
            .Groups[1].Value))]);
        await v.WaitFor($"/dockets/{envelopes}/run", $"1 of 1 sheets done, with docket {tags}");
        // The knife is turned in first, by a short way.
        Assert.Equal(2, studio.Cutter.Record(before).Count(s => s.Units.Where((_, i) => i % 2 == 0).ToList() is var x && x.Max() - x.Min() > 800));
        Assert.Equal(left - 1, await In((db, _) => db.Set<SheetRow>().SumAsync(s => s.Count)));
    }

    /// <summary>FALZKUNST_TOGETHER ("500@7") says how many deeds, and the seed.</summary>
    [Fact]
    public async Task In_any_order_of_events_each_docket_has_sheets_of_its_own_or_is_on_those_of_one_that_has()
    {
        var (count, seed) = Cases.Seeds("FALZKUNST_TOGETHER", "16@1", "24@1");
        var random = new Random(seed);
        var people = new[] { await studio.SignIn(), await studio.SignIn(Studio.Tobias) };
        var dockets = new List<int>();
        for (var i = 0; i < 4; i++) dockets.Add(await Docket(people[0], 20 + 10 * i, 30));
        int Any() => dockets[random.Next(dockets.Count)];
        for (var i = 0; i < count; i++)
        {
            var done = new List<string>();
            // Two at the same instant now and then.
            await Task.WhenAll(people.Take(1 + random.Next(2)).Select(v =>
            {
                int docket = Any(), what = random.Next(9);
                int[] with = [.. dockets.Where(d => d != docket && random.Next(3) == 0)];
                done.Add($"{docket}: {what} {string.Join(',', with)}");
                return Do(v, docket, what, with);
            }));
            foreach (var v in people) Assert.True((int)v.Status < 500, $"{i} {string.Join("; ", done)}: {(int)v.Status} {v.Url}");
            foreach (var docket in dockets)
                foreach (var page in new[] { "lay-out", "run", "print" })
                {
                    await people[0].Get($"/dockets/{docket}/{page}");
                    Assert.True(people[0].Status is HttpStatusCode.OK or HttpStatusCode.NotFound, $"{i} {string.Join("; ", done)}: {docket} {page}");
                }

            await In(async (db, together) =>
            {
                foreach (var docket in await db.Dockets.AsNoTracking().Where(d => dockets.Contains(d.Number)).ToListAsync())
                    if (await together.LeaderOf(docket, CancellationToken.None) is { } leader)
                    {
                        Assert.Null(await together.LeaderOf(leader, CancellationToken.None));
                        Assert.Empty(await together.With(docket.Id, CancellationToken.None));
                        Assert.Contains(docket.Id, (await together.With(leader.Id, CancellationToken.None)).Select(d => d.Id));
                    }

                return true;
            });
        }

        async Task Do(Visitor v, int docket, int what, int[] with)
        {
            var page = $"/dockets/{docket}/lay-out";
            await v.Get(what < 6 ? page : "/dockets");
            await (what switch
            {
                < 3 => v.Post(page + "?handler=Together", [.. with.Select(w => ("with", $"{w}"))]),
                3 => v.Post(page + "?handler=Leave"),
                4 => v.Post(page + "?handler=LayOut"),
                5 => v.Post(page + "?handler=Copies", ("copies", $"{random.Next(1, 5)}")),
                6 => v.Post("/dockets?handler=Archive", ("number", $"{docket}")),
                7 => v.Post("/dockets?handler=Delete", ("number", $"{docket}")),
                _ => Back(v, docket),
            });
        }

        static async Task Back(Visitor v, int docket)
        {
            await v.Post("/dockets?handler=Restore", ("number", $"{docket}"));
            await v.Post("/dockets?handler=TakeOut", ("number", $"{docket}"));
        }
    }
}

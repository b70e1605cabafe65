using Falzkunst.Core.Cards;
using Falzkunst.Core.Measures;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

public sealed class BringInModel(DocketParts parts) : LooksPage(parts)
{
    public sealed record FileFacts(Guid Id, string Name, int Size);

    public override int Stage => 1;

    public List<FileFacts> Files { get; private set; } = [];

    public string WidthText { get; private set; } = "";

    public override async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var cancel = HttpContext.RequestAborted;
        await base.OnPageHandlerExecutionAsync(context, async () =>
        {
            Files = await Parts.Db.SourceFiles.Where(f => f.DocketId == Docket.Id).OrderBy(f => f.At).Select(f => new FileFacts(f.Id, f.Name, f.Bytes.Length)).ToListAsync(cancel);
            return await next();
        });
    }

    public void OnGet(string? piece, string? line, string? look) => Choose(piece, line, look);

    public async Task<IActionResult> OnPostScaleAsync(Guid basedOn, double pxPerInch, CancellationToken cancel) =>
        pxPerInch is >= 1 and <= 10_000 ? await Change(basedOn, new SetScale(pxPerInch), cancel) : Back("Pixels in an inch go from 1 to 10000.");

    public async Task<IActionResult> OnPostWidthAsync(Guid basedOn, string width, CancellationToken cancel)
    {
        if (!LengthText.TryRead(width, LengthUnit, out var wanted, out var error)) return Back(error);
        if (Design is null) return Back();
        if (wanted.Mm is < 1 or > 5000) return Back("A page is from 1 mm to 5 m wide.");
        return await Change(basedOn, new SetScale(Design.Scale.PxPerInch * Design.WidthMm / wanted.Mm), cancel);
    }
}

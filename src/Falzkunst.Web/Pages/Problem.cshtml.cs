using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Falzkunst.Web.Pages;

[IgnoreAntiforgeryToken]
[ResponseCache(NoStore = true)]
public sealed class ProblemModel : PageModel
{
    public string Heading { get; private set; } = "";

    public string Text { get; private set; } = "";

    public void OnGet(int code) => Say(code);

    public void OnPost(int code) => Say(code);

    private void Say(int code) => (Heading, Text) = code switch
    {
        404 => ("Nothing lies here", "The address names no docket, file or page of your studio. It may have been removed."),
        400 => ("That was not understood",
            "The page was open for too long, or the form was not whole. Go back, load the page again, and repeat the last step; nothing was changed."),
        403 => ("That is for the owner", "Only an owner of this workshop may do that. Ask one of them; nothing was changed."),
        413 => ("That is too much at once", "Up to 50 MB can be brought in at once, in up to 1,000 files. Nothing was changed."),
        _ => ("Something went wrong here", "It is our fault, not yours. Nothing was half saved: go back and try again."),
    };
}

using Falzkunst.Core.Cards;
using Falzkunst.Web.Pages.Dockets;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Falzkunst.Web;

/// <summary>
/// A form that changes a docket: <c>&lt;form act="Rename" with-id="p1"&gt;</c> is sent to that handler of the page, with what the page shows, what is chosen,
/// and the token against
/// forged requests. <c>anew</c> forgets what is chosen.
/// </summary>
[HtmlTargetElement("form", Attributes = "act")]
public sealed class ActTagHelper(IHtmlGenerator html) : TagHelper
{
    /// <summary>The page's handler.</summary>
    public string Act { get; set; } = "";

    /// <summary>Whether what is chosen will be gone with it.</summary>
    public bool Anew { get; set; }

    /// <summary>Fields that nobody sees.</summary>
    [HtmlAttributeName("fields", DictionaryAttributePrefix = "with-")]
    public Dictionary<string, string?> With { get; set; } = [];

    [HtmlAttributeNotBound]
    [ViewContext]
    public ViewContext ViewContext { get; set; } = null!;

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var page = (DocketPage)ViewContext.ViewData.Model!;
        output.Attributes.SetAttribute("method", "post");
        output.Attributes.SetAttribute("action", Anew && page is LooksPage looks ? looks.Choose("handler", Act) : page.Post(Act));
        if (Anew) output.Attributes.SetAttribute("data-anew", "");
        output.PreContent.AppendHtml(html.GenerateAntiforgery(ViewContext));
        Hidden("basedOn", (page.Docket.CurrentRevisionId ?? Guid.Empty).ToString());
        foreach (var (name, value) in With) Hidden(name, value ?? "");

        void Hidden(string name, string value) =>
            output.PreContent.AppendHtml("<input type=\"hidden\" name=\"").Append(name).AppendHtml("\" value=\"").Append(value).AppendHtml("\">");
    }
}

/// <summary>
/// A link on a page of a docket. Those pages take another in place of their own middle; what is a file, or has no such middle, is gone to by the browser.
/// </summary>
[HtmlTargetElement("a", Attributes = "href")]
public sealed class LinkTagHelper : TagHelper
{
    [HtmlAttributeNotBound]
    [ViewContext]
    public ViewContext ViewContext { get; set; } = null!;

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        // By the address, since a part of a page has a model of its own.
        if (ViewContext.RouteData.Values["number"] is not { } number || output.Attributes.ContainsName("hx-boost")) return;
        var to = output.Attributes["href"].Value?.ToString() ?? "";
        var isOfDocket = !to.StartsWith('/') || (to + "/").StartsWith($"/dockets/{number}/", StringComparison.Ordinal);
        if (!isOfDocket || output.Attributes.ContainsName("download")) output.Attributes.SetAttribute("hx-boost", "false");
    }
}

/// <summary>
/// A group of the card at hand: <c>&lt;card-group id="write" says="Write" of="_Write" /&gt;</c>. A script that asks only for what changed gets the bodies of
/// those that are open; the others are fetched when they are opened. A whole page has all of them, so that it works without scripts.
/// </summary>
[HtmlTargetElement("card-group")]
public sealed class CardGroupTagHelper(IHtmlHelper html) : TagHelper
{
    public string Id { get; set; } = "";

    /// <summary>What its line says.</summary>
    public string Says { get; set; } = "";

    /// <summary>The partial of its body.</summary>
    public string Of { get; set; } = "";

    public bool Open { get; set; }

    [HtmlAttributeNotBound]
    [ViewContext]
    public ViewContext ViewContext { get; set; } = null!;

    public override async Task ProcessAsync(TagHelperContext context, TagHelperOutput output)
    {
        var page = (BuildModel)ViewContext.ViewData.Model!;
        output.TagName = "details";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", "group");
        output.Attributes.SetAttribute("id", Id);
        if (Open) output.Attributes.SetAttribute("open", "");
        output.Content.AppendHtml("<summary>").Append(Says).AppendHtml("</summary>");
        if (Open || page.IsWhole(Id))
        {
            ((IViewContextAware)html).Contextualize(ViewContext);
            output.Content.AppendHtml(await html.PartialAsync(Of, page));
            return;
        }

        output.Content.AppendHtml("<div class=\"later\" hx-get=\"").Append(page.With("handler", "Group") + "&group=" + Id)
            .AppendHtml("\" hx-trigger=\"later once\" hx-target=\"this\" hx-select=\"unset\" hx-swap=\"outerHTML\">…</div>");
    }
}

/// <summary>A small square of a paper's colour: <c>&lt;chip colour="#fff"&gt;&lt;/chip&gt;</c>.</summary>
[HtmlTargetElement("chip")]
public sealed class ChipTagHelper : TagHelper
{
    public string Colour { get; set; } = "";

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = "i";
        output.Attributes.SetAttribute("class", "chip");
        var rect = new TagBuilder("rect");
        foreach (var (name, value) in new[] { ("width", "12"), ("height", "12"), ("rx", "2"), ("stroke", "#c9c2b4"),
            ("fill", Colour), }) rect.Attributes[name] = value;
        var svg = new TagBuilder("svg");
        svg.Attributes["viewBox"] = "0 0 12 12";
        svg.Attributes["aria-hidden"] = "true";
        svg.InnerHtml.AppendHtml(rect);
        output.Content.SetHtmlContent(svg);
    }
}

/// <summary>The letter of an operation in its colour: <c>&lt;op-code of="Operation.Cut"&gt;&lt;/op-code&gt;</c>.</summary>
[HtmlTargetElement("op-code")]
public sealed class OperationCodeTagHelper : TagHelper
{
    public Operation Of { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = "b";
        output.Attributes.SetAttribute("class", $"code op-{Of.Word()}");
        output.Content.SetContent(Of.Letter());
    }
}

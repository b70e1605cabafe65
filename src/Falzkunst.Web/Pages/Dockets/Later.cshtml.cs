namespace Falzkunst.Web.Pages.Dockets;

/// <summary>The stages that say what will be there.</summary>
public sealed class LaterModel(DocketParts parts) : DocketPage(parts)
{
    public override int Stage => (string?)RouteData.Values["stage"] == "print" ? 4 : 7;

    public string What => Stage switch
    {
        4 => "Here will be what is printed and what is only cut, the bleed, the registration marks with their keep-outs, and the print file.",
        _ => "Here will be the exploded picture, bottom ply to top, with foam and glue, as a page to print. The pile of this card is shown already.",
    };
}

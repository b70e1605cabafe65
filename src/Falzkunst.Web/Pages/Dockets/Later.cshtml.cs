namespace Falzkunst.Web.Pages.Dockets;

/// <summary>The stages that say what will be there.</summary>
public sealed class LaterModel(DocketParts parts) : DocketPage(parts)
{
    public override int Stage => 7;

    public string What =>
        "Here will be the exploded picture, bottom ply to top, with foam and glue, as a page to print. The pile of this card is shown already.";
}

using Falzkunst.Core.Cards;

namespace Falzkunst.Web;

/// <summary>The fields by which somebody says how large a base is to be.</summary>
public static class BaseForm
{
    /// <summary>Before the name of an envelope: as large as goes into that.</summary>
    public const string InEnvelope = "in ";

    /// <summary>The front of a name: of a format, or as large as goes into an envelope ("in C6"); null where there is none.</summary>
    /// <param name="before">What the base is added to; null where there is nothing yet.</param>
    public static CardFormat? FrontOf(string? format, BaseKind kind, int panels, bool lies, Design? before, IReadOnlyList<Stock> stocks)
    {
        format ??= "";
        if (format.StartsWith(InEnvelope, StringComparison.Ordinal))
        {
            if (Envelopes.Find(format[InEnvelope.Length..]) is not { } envelope) return null;
            var (width, height) = envelope.FrontOf(kind, panels, before, stocks, !lies);
            return new(envelope.Name, width, height);
        }

        if (CardFormats.Find(format) is not { } named) return null;
        return lies == named.Width > named.Height ? named : named with { Width = named.Height, Height = named.Width };
    }
}

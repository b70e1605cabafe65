using Falzkunst.Core.Cards;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Reading;

/// <summary>What stands in a file, before anything is interpreted. The producer is the first comment in it. All in mm, y down, from the upper left corner of
/// the page.</summary>
public sealed record Drawing(Length Width, Length Height, ScaleFacts Scale, ImmutableArray<DrawnItem> Items, ImmutableArray<ReadingNote> Notes,
    string Producer = "")
{
    /// <summary>The texts in it, from the first to the last.</summary>
    public ImmutableArray<DrawnText> Texts { get; init; } = [];
}

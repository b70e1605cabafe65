
namespace Falzkunst.Core.Pictures;

/// <summary>Something drawn, in paint order: the first lies lowest. <paramref name="Layer"/> is the label of the innermost named layer, or empty.</summary>
public abstract record DrawnItem(string Name, string Layer);

/// <summary>A text that stands in the file, whether or not its letters could be drawn.</summary>
/// <param name="At">Where it begins, on its base line, in mm.</param>
public sealed record DrawnText(string Text, Point At);

/// <summary>A path in mm, with how it is painted.</summary>
public sealed record DrawnPath(string Name, string Layer, VectorPath Path, Ink Ink) : DrawnItem(Name, Layer)
{
    /// <summary>The picture of its gradient or pattern, see-through outside the path; null where it has a plain colour.</summary>
    public DrawnPicture? Paint { get; init; }

    /// <summary>The text that it is a letter of; null where it is none.</summary>
    public DrawnText? IsTextOf { get; init; }
}

/// <summary>An embedded picture: its bytes as they stand in the file, and the map from the unit square to mm.</summary>
public sealed record DrawnPicture(string Name, string Layer, string MediaType, ImmutableArray<byte> Bytes, Affine Place, double Opacity)
    : DrawnItem(Name, Layer);

/// <summary>Things that are drawn together.</summary>
/// <param name="Within">Where they are drawn; null draws them everywhere.</param>
/// <param name="Map">From their coordinates to the page's.</param>
public sealed record Layer(VectorPath? Within, Affine Map, ImmutableArray<DrawnItem> Items);

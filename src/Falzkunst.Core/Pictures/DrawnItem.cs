
namespace Falzkunst.Core.Pictures;

/// <summary>Something drawn, in paint order: the first lies lowest. <paramref name="Layer"/> is the label of the innermost named layer, or empty.</summary>
public abstract record DrawnItem(string Name, string Layer);

/// <summary>A path in mm, with how it is painted.</summary>
public sealed record DrawnPath(string Name, string Layer, VectorPath Path, Ink Ink) : DrawnItem(Name, Layer)
{
    /// <summary>The picture of its gradient or pattern, see-through outside the path; null where it has a plain colour.</summary>
    public DrawnPicture? Paint { get; init; }
}

/// <summary>An embedded picture: its bytes as they stand in the file, and the map from the unit square to mm.</summary>
public sealed record DrawnPicture(string Name, string Layer, string MediaType, ImmutableArray<byte> Bytes, Affine Place, double Opacity)
    : DrawnItem(Name, Layer);

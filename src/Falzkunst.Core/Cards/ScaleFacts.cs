namespace Falzkunst.Core.Cards;

/// <summary>Whether the file says how large it is, and what was taken otherwise.</summary>
/// <param name="PxPerInch">Pixels in an inch; 96 where the file has physical units, which SVG fixes at 96.</param>
public sealed record ScaleFacts(double PxPerInch, bool IsKnown, string Reason);

/// <summary>Something in the file that was left out or changed, with its place in mm.</summary>
public sealed record ReadingNote(string Code, string Text, Point At);

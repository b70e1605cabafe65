namespace Falzkunst.Core.Runs;

/// <summary>The unit that plotters count in (HPGL): 40 to a millimetre.</summary>
public static class Plotter
{
    public const double UnitsPerMm = 40;

    public const double MmPerUnit = 1 / UnitsPerMm;
}

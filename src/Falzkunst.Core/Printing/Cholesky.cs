namespace Falzkunst.Core.Printing;

/// <summary>Small systems of linear equations whose matrix is symmetric, as least squares give them.</summary>
internal static class Cholesky
{
    /// <summary>Solves equations whose lower half is given, by Cholesky's factors; null where they don't determine the unknowns.</summary>
    public static double[]? Solved(double[,] lower, double[] right)
    {
        var n = right.Length;
        var l = new double[n, n];
        for (var i = 0; i < n; i++)
        {
            for (var j = 0; j <= i; j++)
            {
                var sum = lower[i, j];
                for (var k = 0; k < j; k++) sum -= l[i, k] * l[j, k];
                if (i == j && !(sum > 1e-12 * lower[i, i])) return null;
                l[i, j] = i == j ? Math.Sqrt(sum) : sum / l[j, j];
            }
        }

        var x = (double[])right.Clone();
        for (var i = 0; i < n; i++)
        {
            for (var k = 0; k < i; k++) x[i] -= l[i, k] * x[k];
            x[i] /= l[i, i];
        }

        for (var i = n - 1; i >= 0; i--)
        {
            for (var k = i + 1; k < n; k++) x[i] -= l[k, i] * x[k];
            x[i] /= l[i, i];
        }

        return x;
    }
}

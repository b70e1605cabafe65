using System.Security.Cryptography;
using System.Text;
using Falzkunst.Web.Tests;
using Xunit.Sdk;
using Xunit.v3;

[assembly: TestClassOrderer(typeof(Order))]
[assembly: TestMethodOrderer(typeof(Order))]
[assembly: TestCaseOrderer(typeof(Order))]

namespace Falzkunst.Web.Tests;

/// <summary>
/// The tests of a studio share its drawer and its machines, so their order is the same in every folder: by name. FALZKUNST_ORDER mixes
/// it by a seed, which finds a test that only passes after, or before, another one. (xUnit's own order follows the path of the assembly.)
/// </summary>
public sealed class Order : ITestClassOrderer, ITestMethodOrderer, ITestCaseOrderer
{
    private static readonly string? Seed = Environment.GetEnvironmentVariable("FALZKUNST_ORDER");

    public IReadOnlyCollection<T?> OrderTestClasses<T>(IReadOnlyCollection<T?> testClasses)
        where T : notnull, ITestClass => [.. testClasses.OrderBy(c => Key(c?.TestClassName), StringComparer.Ordinal)];

    public IReadOnlyCollection<T?> OrderTestMethods<T>(IReadOnlyCollection<T?> testMethods)
        where T : notnull, ITestMethod => [.. testMethods.OrderBy(m => Key(m?.MethodName), StringComparer.Ordinal)];

    public IReadOnlyCollection<T> OrderTestCases<T>(IReadOnlyCollection<T> testCases)
        where T : notnull, ITestCase => [.. testCases.OrderBy(c => Key(c.TestCaseDisplayName), StringComparer.Ordinal)];

    private static string Key(string? name) => Seed is null ? name ?? "" : Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(Seed + name)));
}

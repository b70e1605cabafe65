using System.Diagnostics;

namespace Falzkunst.Core.Tests;

/// <summary>Programs from elsewhere that judge what we read and write.</summary>
internal static class Outside
{
    /// <summary>Runs a program, and gives all that it says.</summary>
    public static string Run(string tool, params string[] arguments)
    {
        using var process = Process.Start(new ProcessStartInfo(tool, arguments)
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            UseShellExecute = false,
        })!;
        var errors = process.StandardError.ReadToEndAsync();
        var said = process.StandardOutput.ReadToEnd() + errors.Result;
        process.WaitForExit();
        return said;
    }
}

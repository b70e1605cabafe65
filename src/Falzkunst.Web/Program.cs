using Falzkunst.Web;

const int NotPrepared = 3;
var app = App.Build(args);
if (Array.IndexOf(args, "--new-password") is >= 0 and var at)
{
    // For those who sit at this computer: ./start --new-password NAME@EXAMPLE
    return await Prepare.NewPassword(app.Services, args.ElementAtOrDefault(at + 1) ?? "", Console.Out) ? 0 : 1;
}

if (args.Contains("--prepare"))
{
    try
    {
        await Prepare.Run(app, args.Contains("--demo"));
    }
    catch (Exception e) when (e is Npgsql.NpgsqlException or InvalidOperationException)
    {
        await Console.Error.WriteLineAsync($"The database could not be brought up to date: {e.Message}");
        return NotPrepared;
    }
}

await Warm.Up(app);
var address = app.Configuration["urls"];
try
{
    await app.RunAsync();
    return 0;
}
catch (IOException e) when (e.InnerException is Microsoft.AspNetCore.Connections.AddressInUseException)
{
    await Console.Error.WriteLineAsync($"Somebody else listens at {address} already.");
    return 1;
}

/// <summary>Named so that tests can start the application in their own process.</summary>
public partial class Program;

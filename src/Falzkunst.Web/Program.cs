using Falzkunst.Web;

var app = App.Build(args);
if (args.Contains("--prepare"))
{
    await Prepare.Run(app, args.Contains("--demo"));
    return 0;
}

if (Array.IndexOf(args, "--new-password") is >= 0 and var at)
{
    // For those who sit at this computer: ./start --new-password NAME@EXAMPLE
    return await Prepare.NewPassword(app.Services, args.ElementAtOrDefault(at + 1) ?? "", Console.Out) ? 0 : 1;
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

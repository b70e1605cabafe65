using Falzkunst.Web;

var app = App.Build(args);
if (args.Contains("--prepare"))
{
    await Prepare.Run(app, args.Contains("--demo"));
    return 0;
}

await Warm.Up(app);
await app.RunAsync();
return 0;

/// <summary>Named so that tests can start the application in their own process.</summary>
public partial class Program;

using Falzkunst.Cli;

return CommandLine.Run(args);

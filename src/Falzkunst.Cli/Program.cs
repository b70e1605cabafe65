using Falzkunst.Cli;

CommandLine.LeavesNothingHalf();
return CommandLine.Run(args);

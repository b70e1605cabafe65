WebApplication.Create().Run();

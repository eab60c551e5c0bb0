// A service that does nothing but answer: what starting ASP.NET Core costs by itself.
var app = WebApplication.CreateSlimBuilder(args).Build();
app.MapGet("/health/ready", () => "ready");
app.Run();

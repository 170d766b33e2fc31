namespace WideKeel.Server.Jobs;

/// <summary>Long work, and what is done every day.</summary>
public sealed class JobsPart : IPart
{
    public string Name => "Jobs";

    public int Order => 30;

    public void AddServices(IServiceCollection services, WideKeelOptions options)
    {
        services.AddSingleton<JobBoard>();
        services.AddSingleton<JobFeed>();
        services.AddHostedService<JobRunner>();
        services.AddHostedService<DailyRun>();
    }

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapJobs();
        api.MapServerHealth();
        api.MapEncryption();
    }
}

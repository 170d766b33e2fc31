namespace WideKeel.Server.Access;

/// <summary>Who reaches what, by which path, and whether they still should.</summary>
public sealed class AccessPart : IPart
{
    public string Name => "Access";

    public int Order => 110;

    public void AddServices(IServiceCollection services, WideKeelOptions options) =>
        services
            .AddSingleton<AccessGround>()
            .AddSingleton<MendingWatch>()
            .AddHostedService(s => s.GetRequiredService<MendingWatch>());

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapReach();
        api.MapAccessChanges();
        api.MapMending();
        api.MapOwners();
        api.MapOwned();
        api.MapReviews();
        api.MapRounds();
        api.MapReviewReports();
        api.MapReviewHistory();
        api.MapReviewers();
    }
}

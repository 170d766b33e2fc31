namespace WideKeel.Server.People;

/// <summary>Accounts, roles, units, and the directory of people.</summary>
public sealed class PeoplePart : IPart
{
    public string Name => "People";

    public int Order => 10;

    public void AddServices(IServiceCollection services, WideKeelOptions options) =>
        services
            .AddSingleton<OrganisationDirectory>()
            .AddSingleton<DirectoryCarrier>()
            .AddSingleton<SetUpCode>()
            .AddSingleton<PersonLinks>()
            .AddSingleton(_ => new SignInGuard(options.WallClock))
            .AddSingleton<OneTimeCodes>()
            .AddHostedService<DirectoryPull>();

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapSession();
        api.MapOneTimeCodes();
        api.MapPeople();
        api.MapInvitations();
        api.MapLinks();
        api.MapFactorRoles();
        api.MapDirectory();
        api.MapDirectorySources();
    }

    public void MapOutsideApi(IEndpointRouteBuilder root) => root.MapScim();
}

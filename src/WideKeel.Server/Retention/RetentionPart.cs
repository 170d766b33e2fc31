namespace WideKeel.Server.Retention;

/// <summary>The retention schedule: series, blankets, events, authorities, and how items come under them.</summary>
public sealed class RetentionPart : IPart
{
    public string Name => "Retention";

    public int Order => 60;

    public void AddServices(IServiceCollection services, WideKeelOptions options) =>
        services.AddSingleton<IProposalBook, ProposalBook>();

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapFilings();
        api.MapSeries();
        api.MapSchedule();
        api.MapHealth();
        api.MapToMend();
        api.MapAuthorities();
        api.MapBlankets();
        api.MapTriggerEvents();
        api.MapFilingDefaults();
        api.MapFilingRules();
        api.MapSuggestions();
        api.MapProposals();
        api.MapSettings();
    }
}

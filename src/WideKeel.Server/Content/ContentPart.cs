using WideKeel.Sources;

namespace WideKeel.Server.Content;

/// <summary>
/// Sources and what lies in them: items, their texts and fields, what is found in them, copies in safekeeping.
/// </summary>
public sealed class ContentPart : IPart
{
    public string Name => "Content";

    public int Order => 50;

    public void AddServices(IServiceCollection services, WideKeelOptions options)
    {
        services.AddSingleton(new Safekeeping(options.SafekeepingFolder));
        services.AddSingleton<SafekeepingGate>();
    }

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapItems();
        api.MapQueries();
        api.MapAlike();
        api.MapViews();
        api.MapSensitive();
        api.MapSources();
        api.MapSafekeeping();
    }
}

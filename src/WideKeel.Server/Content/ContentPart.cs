using WideKeel.Core.AtRest;
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
        services.AddSingleton(s => new Safekeeping(options.SafekeepingFolder, s.GetRequiredService<RestKeyring>()));
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

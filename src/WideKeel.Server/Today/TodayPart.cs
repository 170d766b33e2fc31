namespace WideKeel.Server.Today;

/// <summary>What all parts bring together: the work that waits for a person, and what can be found.</summary>
public sealed class TodayPart : IPart
{
    public string Name => "Today";

    public int Order => 200;

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapToday();
        api.MapFind();
    }
}

namespace WideKeel.Server.Matters;

/// <summary>Disputes and requests: who works on them, what is searched, held, told, exported and released.</summary>
public sealed class MattersPart : IPart
{
    public string Name => "Matters";

    public int Order => 80;

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapMatters();
        api.MapCustodians();
        api.MapSweeps();
        api.MapCoding();
        api.MapHoldOrders();
        api.MapReleases();
        api.MapNotices();
        api.MapMatterBundles();
    }
}

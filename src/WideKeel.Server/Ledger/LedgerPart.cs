namespace WideKeel.Server.Ledger;

/// <summary>The journal of everything done, and its proofs.</summary>
public sealed class LedgerPart : IPart
{
    public string Name => "Ledger";

    public int Order => 20;

    public void AddServices(IServiceCollection services, WideKeelOptions options)
    {
        services.AddSingleton<SecondPlace>();
        services.AddHostedService(s => s.GetRequiredService<SecondPlace>());
    }

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapLedger();
    }
}

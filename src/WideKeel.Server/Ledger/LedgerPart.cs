namespace WideKeel.Server.Ledger;

/// <summary>The journal of everything done, and its proofs.</summary>
public sealed class LedgerPart : IPart
{
    public string Name => "Ledger";

    public int Order => 20;

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapLedger();
    }
}

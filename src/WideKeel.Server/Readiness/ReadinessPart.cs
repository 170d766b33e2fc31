namespace WideKeel.Server.Readiness;

/// <summary>Whether the organisation is ready for its audits, and where the evidence is.</summary>
public sealed class ReadinessPart : IPart
{
    public string Name => "Readiness";

    public int Order => 120;

    public void AddServices(IServiceCollection services, WideKeelOptions options) =>
        services
            .AddSingleton<MeasureBook>()
            .AddSingleton<ConnectionReading>()
            .AddSingleton<ContentScanner>()
            .AddHttpClient(nameof(ConnectionReading))
            .ConfigurePrimaryHttpMessageHandler(provider => provider.GetRequiredService<OutboundGuard>().Handler());

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapGauges();
        api.MapOwnMeasures();
        api.MapFrameworks();
        api.MapFrameworkAdoption();
        api.MapControls();
        api.MapProofs();
        api.MapRegisters();
        api.MapPolicies();
        api.MapPolicyReaders();
        api.MapConnections();
        api.MapAreas();
        api.MapAudits();
        api.MapAuditRequests();
        api.MapAuditOffers();
        api.MapAuditSamples();
        api.MapAuditPopulations();
        api.MapAuditFindings();
        api.MapFindingInvestigations();
        api.MapMyEvidence();
        api.MapAssurance();
        api.MapAssuranceDocuments();
    }
}

namespace WideKeel.Server.Disposition;

/// <summary>What is due: batches, sign-off, destruction and hand-over, certificates.</summary>
public sealed class DispositionPart : IPart
{
    public string Name => "Disposition";

    public int Order => 70;

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapDocket();
        api.MapQuestions();
        api.MapBundles();
        api.MapCertificates();
    }
}

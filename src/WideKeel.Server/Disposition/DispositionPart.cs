using WideKeel.Server.Jobs;
using WideKeel.Server.Retention;

namespace WideKeel.Server.Disposition;

/// <summary>What is due: batches, sign-off, destruction and hand-over, certificates.</summary>
public sealed class DispositionPart : IPart
{
    public string Name => "Disposition";

    public int Order => 70;

    public void AddServices(IServiceCollection services, WideKeelOptions options)
    {
        services.AddSingleton<IJob, ExecuteJob>();
        services.AddSingleton<IJob, ClearWordsJob>();
        services.AddSingleton<IDailyTask, StageReminders>();
        services.AddSingleton<IDailyTask, CertificatesPastTheirTerm>();
        services.AddSingleton<IDutySource, DispositionDuties>();
        services.AddSingleton<IDutySource, QuestionDuties>();
        services.AddSingleton<IFindSource, CertificateFindSource>();
        services.AddSingleton<IHealthSource, DocketHealth>();
    }

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapDocket();
        api.MapQuestions();
        api.MapBundles();
        api.MapCertificates();
    }
}

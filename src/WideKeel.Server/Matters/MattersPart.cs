using WideKeel.Server.Content;
using WideKeel.Server.Jobs;

namespace WideKeel.Server.Matters;

/// <summary>Disputes and requests: who works on them, what is searched, held, told, exported and released.</summary>
public sealed class MattersPart : IPart
{
    public string Name => "Matters";

    public int Order => 80;

    public void AddServices(IServiceCollection services, WideKeelOptions options)
    {
        services.AddSingleton<IJob, HoldJob>();
        services.AddSingleton<IJob, SweepJob>();
        services.AddSingleton<IJob, MatterBundleJob>();
        services.AddSingleton<IJob, DeleteMatterJob>();
        services.AddSingleton<IItemArrival, HoldsOnArrival>();
        services.AddSingleton<IUnappliedHolds, UnappliedOrders>();
        services.AddSingleton<IDailyTask, MatterDailyTask>();
        services.AddSingleton<IDutySource, MatterDuties>();
        services.AddSingleton<IFindSource, MatterFindSource>();
    }

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapMatters();
        api.MapCustodians();
        api.MapSweeps();
        api.MapHoldOrders();
        api.MapReleases();
        api.MapNotices();
        api.MapMatterBundles();
    }
}

using WideKeel.Core.AtRest;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>The logs of every system: taken in, sealed, searched, asked.</summary>
public sealed class ActivityPart : IPart
{
    public string Name => "Activity";

    public int Order => 100;

    public void AddServices(IServiceCollection services, WideKeelOptions options)
    {
        services.AddSingleton(s =>
        {
            var archive = new ArchiveFiles(
                options.ArchiveFolder,
                ArchiveFiles.OpenFolderFor(options.ArchiveFolder),
                s.GetRequiredService<RestKeyring>()
            );
            archive.Tidy();
            return archive;
        });
        services.AddSingleton<PlaceBook>();
        services.AddSingleton<EventIntake>();
        services.AddSingleton<StatementEngine>();
        services.AddSingleton<WatchEvaluator>();
        services.AddHostedService(s => s.GetRequiredService<WatchEvaluator>());
        services.AddSingleton<ChannelFeeds>();
        services.AddHostedService(s => s.GetRequiredService<ChannelFeeds>());
        services.AddSingleton<SyslogServer>();
        services.AddHostedService(s => s.GetRequiredService<SyslogServer>());
    }

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapChannels();
        api.MapNetworks();
        api.MapEvents();
        api.MapBoards();
        api.MapSignIns();
        api.MapStatements();
        api.MapSavedStatements();
        api.MapInvestigations();
        api.MapAlertInvestigations();
        api.MapMatterActivity();
        api.MapWatches();
        api.MapAlerts();
        api.MapAlertRanks();
        api.MapAlertActs();
    }
}

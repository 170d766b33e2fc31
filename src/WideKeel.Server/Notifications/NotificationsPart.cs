using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Hosting.Server;
using WideKeel.Sources;

namespace WideKeel.Server.Notifications;

/// <summary>Messages to people and to other systems, and the calendar feed.</summary>
public sealed class NotificationsPart : IPart
{
    public string Name => "Notifications";

    public int Order => 40;

    public void AddServices(IServiceCollection services, WideKeelOptions options)
    {
        services
            .AddHttpClient(nameof(Mailer), client => client.Timeout = TimeSpan.FromSeconds(20))
            .ConfigurePrimaryHttpMessageHandler(provider => provider.GetRequiredService<OutboundGuard>().Handler());
        services.AddSingleton(provider =>
        {
            // Made here, so that it is stopped with the host.
            var sink = options.MailSink ? provider.GetRequiredService<MailSink>() : null;
            sink?.Start();
            return new MailRoom(
                sink,
                provider.GetRequiredService<IDataProtectionProvider>(),
                provider.GetRequiredService<IServer>(),
                provider.GetRequiredService<ILogger<MailRoom>>()
            );
        });
        services.AddSingleton(_ => new MailSink(options.MailSinkFolder));
        services.AddHostedService<Mailer>();
    }

    public void MapRoutes(IEndpointRouteBuilder api)
    {
        api.MapNotifications();
        api.MapInnerNetworks();
    }
}

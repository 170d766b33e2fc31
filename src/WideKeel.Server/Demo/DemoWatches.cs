using WideKeel.Core.Activity;
using WideKeel.Demo;
using WideKeel.Server.Activity;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Demo;

/// <summary>The demo's watches: most of the templates switched on over the ninety days, three off, and the alerts
/// answered as an analyst would.</summary>
internal static class DemoWatches
{
    private static readonly string[] Off = ["Application new to the peers", "Nothing arrives", "Many downloads"];

    private static readonly Dictionary<string, (AlertState State, string Reason, bool Useful)> Answers = new()
    {
        ["Mail forwarded outside"] = (
            AlertState.Confirmed,
            "The mailbox sent copies to a private address; the rule was taken out and the person spoken to.",
            true
        ),
        ["Impossible journey"] = (
            AlertState.Expected,
            "The hotel’s network leaves abroad; confirmed by telephone.",
            false
        ),
        ["Role given"] = (AlertState.Expected, "The portal’s administration was handed over as planned.", false),
        ["Many objects handled at once"] = (
            AlertState.Expected,
            "The voyage reports were moved to the archive folder, as announced in March.",
            false
        ),
    };

    public static async Task MakeAsync(Uri address, IServiceProvider services, DateTimeOffset since)
    {
        using var sunniva = await DemoSeed.DemoClient.ConnectAsync(address);
        await sunniva.SignInAsync("sunniva.krag@tarnholm.example");
        var templates = await sunniva.GetAsync<List<WatchSettings>>("watches/templates");
        List<WatchSettings> own =
        [
            new(
                "Many objects handled at once",
                new(
                    "count",
                    "action any \"file.move file.write\"",
                    "actor = svc.backup@tarnholm.example",
                    "actor",
                    "events",
                    200,
                    "PT2H"
                ),
                AlertSeverity.Low
            ),
        ];
        foreach (var watch in templates.Concat(own))
        {
            await sunniva.PostAsync<Done>("watches", watch with { Recipients = ["sunniva.krag@tarnholm.example"] });
        }

        foreach (var watch in await sunniva.GetAsync<List<WatchView>>("watches"))
        {
            if (!Off.Contains(watch.Settings.Name))
            {
                await sunniva.PostAsync<Done>($"watches/{watch.Id}/on", new WatchSwitch(since));
            }
        }

        await services.GetRequiredService<WatchEvaluator>().JudgeAsync(CancellationToken.None);
        foreach (var alert in await sunniva.GetAsync<List<AlertView>>("alerts"))
        {
            if (Answers.TryGetValue(alert.Watch, out var answer))
            {
                await sunniva.PostAsync<Done>($"alerts/{alert.Id}/owner", new { });
                var taken = (await sunniva.GetAsync<AlertDetail>($"alerts/{alert.Id}")).Alert;
                await sunniva.PostAsync<Done>(
                    $"alerts/{alert.Id}/state",
                    new AlertAnswer(answer.State, answer.Reason),
                    taken.Revision
                );
                await sunniva.PostAsync<Done>($"alerts/{alert.Id}/feedback", new AlertFeedback(answer.Useful));
            }
        }
    }
}

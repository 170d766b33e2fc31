using System.Text;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using UglyToad.PdfPig.Writer;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Demo;
using WideKeel.Server.People;
using WideKeel.Server.Readiness;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Demo;

/// <summary>The demo's two audits: one to come, and one whose room is open.</summary>
internal static class DemoAudits
{
    public static async Task MakeAsync(DemoSeed.DemoClient ines, LocalDate today)
    {
        await ines.PostAsync<Done>(
            "audits",
            new AuditSettings(
                "Safety records, yearly audit",
                "safety-records-standard",
                DemoReadiness.Auditor,
                today.PlusDays(-365).ToDateOnly(),
                today.ToDateOnly(),
                today.PlusDays(35).ToDateOnly(),
                today.PlusDays(49).ToDateOnly()
            )
        );
        await ines.PostAsync<Done>(
            "audits",
            new AuditSettings(
                "Access and logging, interim look",
                "sp-800-53-slice",
                DemoReadiness.Auditor,
                today.PlusDays(-180).ToDateOnly(),
                today.ToDateOnly(),
                today.PlusDays(-5).ToDateOnly(),
                today.PlusDays(9).ToDateOnly()
            )
        );
        var audits = await ines.GetAsync<List<AuditView>>("audits");
        var yearly = audits.First(a => a.Settings.Framework == "safety-records-standard");
        foreach (var (what, requirement, owner, dueIn) in ReadinessStory.Requests)
        {
            await ines.PostAsync<Done>(
                $"audits/{yearly.Id}/requests",
                new NewRequest(what, requirement, DemoReadiness.Mail(owner), today.PlusDays(dueIn).ToDateOnly())
            );
        }

        var interim = audits.First(a => a.Id != yearly.Id);
        foreach (
            var (what, requirement) in new[]
            {
                ("Which logs are collected", "au-2"),
                ("How logs are protected", "au-9"),
                ("How accounts are managed", "ac-2"),
            }
        )
        {
            await ines.PostAsync<Done>(
                $"audits/{interim.Id}/requests",
                new NewRequest(what, requirement, DemoReadiness.Mail("jonas.aske"), today.PlusDays(3).ToDateOnly())
            );
        }

        await OfferAsync(ines, interim.Id);
    }

    /// <summary>Evidence for two requests, and a population to sample from.</summary>
    private static async Task OfferAsync(DemoSeed.DemoClient ines, long audit)
    {
        foreach (var number in new[] { 1, 2 })
        {
            var request = $"audits/{audit}/requests/{number}";
            await ines.PostAsync<OfferResult>($"{request}/offer", new { });
            await ines.PostAsync<Done>($"{request}/state", new RequestAnswer(RequestState.Ready));
        }

        await ines.PostAsync<Done>(
            $"audits/{audit}/populations",
            new NewPopulation("Accounts, with or without a second factor", "second-factor", null)
        );
    }
}

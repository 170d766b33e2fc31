using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Demo;
using WideKeel.Server.Access;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Access;
using WideKeel.Store.People;

namespace WideKeel.Server.Demo;

/// <summary>
/// The demo's directory and four reviews of access: one that has ended with its report, one that runs with a reviewer who
/// stamps and one who is silent, one that is planned, and a draft.
/// </summary>
internal static class DemoAccess
{
    private const string Guests = "Guests in the yard’s groups";
    private const string Running = "Members of the projects";

    /// <summary>Weeks before the demo’s day.</summary>
    public static async Task BeginAsync(Uri address, IServiceProvider services, DirectoryState state, int daysBefore)
    {
        var directory = services.GetRequiredService<OrganisationDirectory>();
        directory.Outside.Write(state);
        await directory.PullAsync(services.GetRequiredService<Writer>());
        using var ines = await DemoSeed.DemoClient.ConnectAsync(address);
        await ines.SignInAsync("ines.calloway@tarnholm.example");
        await ines.PutAsync<Done>(
            "access/toxic-pairs",
            AccessStory
                .Toxic.Select(t => new ToxicPairView(t.Name, t.First, t.FirstRole, t.Second, t.SecondRole))
                .ToList()
        );
        var today = services.GetRequiredService<OrganisationCalendar>().Today;
        await MakeAsync(
            ines,
            Settings(Guests, ["Dry dock 2026", "Surveyors"], [], today) with
            {
                People = ReviewPeople.Guests,
                Days = 7,
                Silence = SilenceRule.Remove,
                ReasonsRequired = true,
            }
        );
        await MakeAsync(
            ines,
            Settings(Running, ["Pier 4 repair", "Fuel tender", "Summer timetable", "Ticket machines"], [], today) with
            {
                Days = daysBefore + 4,
            }
        );
        var links = await LinksAsync(services);
        var first = true;
        foreach (var link in links.Where(l => l.Review == Guests))
        {
            await AnswerAsync(
                ines,
                await LinkAsync(ines, services, link),
                _ => LineDecision.Keep,
                "Works in the dock until it is done."
            );
        }

        // One stamps, one decides, the others are silent.
        foreach (var link in links.Where(l => l.Review == Running).Take(2))
        {
            var stamps = first;
            await AnswerAsync(
                ines,
                await LinkAsync(ines, services, link),
                l => stamps || !l.AdviseRemoval ? LineDecision.Keep : LineDecision.Remove,
                stamps ? "" : "No longer in the project."
            );
            first = false;
        }
    }

    /// <summary>On the demo’s day.</summary>
    public static async Task GoOnAsync(Uri address, IServiceProvider services, LocalDate today)
    {
        services.GetRequiredService<AccessGround>().Forget();
        using var ines = await DemoSeed.DemoClient.ConnectAsync(address);
        await ines.SignInAsync("ines.calloway@tarnholm.example");
        await MakeAsync(
            ines,
            Settings(
                "Sensitive places, by their owners",
                [],
                ["lib/people/restricted", "lib/finance/restricted", "lib/claims-legal/restricted", "app/payroll"],
                new LocalDate(today.Year, today.Month, 1).PlusMonths(1)
            ) with
            {
                Recurrence = "FREQ=MONTHLY;INTERVAL=3",
                Days = 10,
            }
        );
        await ines.PostAsync<Done>(
            "reviews",
            Settings("Who did not sign in for two months", ["All staff"], [], today) with
            {
                People = ReviewPeople.Inactive,
                InactiveDays = 60,
                Reviewer = ReviewerKind.Manager,
            }
        );
    }

    private static ReviewSettings Settings(
        string name,
        IReadOnlyList<string> groups,
        IReadOnlyList<string> resources,
        LocalDate start
    ) =>
        new(
            name,
            groups,
            resources,
            ReviewPeople.Everybody,
            30,
            ReviewerKind.Owner,
            [],
            "",
            14,
            start.ToDateOnly(),
            "",
            false,
            SilenceRule.Advice,
            true,
            "The quarterly look at who has access to what."
        );

    private static async Task MakeAsync(DemoSeed.DemoClient who, ReviewSettings settings)
    {
        await who.PostAsync<Done>("reviews", settings);
        var made = (await who.GetAsync<List<ReviewView>>("reviews")).Single(r => r.Settings.Name == settings.Name);
        await who.PostAsync<Done>($"reviews/{made.Id}/rounds", new { });
    }

    private static Task<string> LinkAsync(
        DemoSeed.DemoClient who,
        IServiceProvider services,
        (string Review, ReviewerLink Link) of
    ) => who.OpenLinkAsync(services, (LinkKind.Review, of.Link.Id), of.Link.Mail);

    private static async Task<List<(string Review, ReviewerLink Link)>> LinksAsync(IServiceProvider services)
    {
        await using var scope = services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<WideKeelDb>();
        var links = await (
            from link in db.ReviewerLinks
            join round in db.ReviewRounds on link.RoundId equals round.Id
            join review in db.Reviews on round.ReviewId equals review.Id
            orderby link.Id
            select new { Link = link, Review = review }
        )
            .AsNoTracking()
            .ToListAsync();
        return [.. links.Select(l => (ReviewRounds.DefinitionOf(l.Review).Name, l.Link))];
    }

    private static async Task AnswerAsync(
        DemoSeed.DemoClient who,
        string token,
        Func<ReviewLineView, LineDecision> decide,
        string reason
    )
    {
        foreach (var line in (await who.GetAsync<ReviewerPage>($"review/{token}")).Lines)
        {
            await who.PostAsync<Done>($"review/{token}/answers", new LineAnswer([line.Id], decide(line), reason));
        }
    }
}

using System.Globalization;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <param name="Words">What the code means; null where nobody explained it.</param>
/// <param name="Own">The explanation is the organisation's own.</param>
public sealed record FailureCode(string Code, string? Words, string? Next, bool Own, long Count, string Query);

/// <summary>Sign-ins to one application on one day.</summary>
public sealed record ApplicationDay(string Day, long Success, long Failure, long Interrupted);

public sealed record ApplicationRate(
    string Application,
    long Success,
    long Failure,
    long Interrupted,
    IReadOnlyList<ApplicationDay> Days,
    string Query
);

public sealed record SignInPlace(
    string Place,
    string Country,
    double? Latitude,
    double? Longitude,
    long Success,
    long Failure,
    string Query
);

/// <summary>
/// Failed attempts on one account from several addresses outside the named networks: guessing that takes its time.
/// </summary>
public sealed record SignInCampaign(
    string Actor,
    long Attempts,
    long Addresses,
    Instant First,
    Instant Last,
    bool Succeeded,
    string Query
);

public sealed record SignIns(
    long Success,
    long Failure,
    long Interrupted,
    IReadOnlyList<ApplicationRate> Applications,
    IReadOnlyList<FailureCode> Codes,
    IReadOnlyList<SignInPlace> Places,
    IReadOnlyList<SignInCampaign> Campaigns
);

/// <summary>What one failed sign-in means.</summary>
/// <param name="Grounds">What speaks for it, each a sentence.</param>
public sealed record Diagnosis(string Words, string Next, IReadOnlyList<string> Grounds);

/// <summary>Who signed in, who could not, from where, and why.</summary>
public static class SignInEndpoints
{
    private const int CampaignAddresses = 4;
    private const int MostCampaigns = 50;

    public static void MapSignIns(this IEndpointRouteBuilder api)
    {
        api.MapGet("/activity/sign-ins", Show).Requires(Right.ReadActivity);
        api.MapGet("/events/{id:long}/diagnosis", Diagnose).Requires(Right.ReadActivity);
        SignInCatalogue.MapSignInCodes(api);
    }

    private static async Task<Reply<SignIns>> Show(
        DateTimeOffset? from,
        DateTimeOffset? before,
        [AsParameters] ApiContext context
    )
    {
        var all = (await EventQuestion.ReadAsync("action == sign-in", from, before, context)).Value;
        var failed = (
            await EventQuestion.ReadAsync("action == sign-in and outcome == failure", from, before, context)
        ).Value;
        var applications = Applications(all);
        var catalogue = await SignInCatalogue.LoadAsync(context.Db, context.Cancel);
        // People mistype at their desks, whose addresses change; a campaign comes from networks that nobody named.
        var outside = (
            await EventQuestion.ReadAsync(Outside("action == sign-in and outcome == failure"), from, before, context)
        ).Value;
        return new SignIns(
            applications.Sum(a => a.Success),
            applications.Sum(a => a.Failure),
            applications.Sum(a => a.Interrupted),
            applications,
            [
                .. new EventTally(failed)
                    .Values([EventColumn.Code], 40)[0]
                    .Select(v =>
                    {
                        var known = catalogue.Find(v.Value);
                        return new FailureCode(
                            v.Value,
                            known?.Words,
                            known?.Next,
                            catalogue.IsOwn(v.Value),
                            v.Count,
                            $"action == sign-in and outcome == failure and code == {EventEndpoints.Quoted(v.Value)}"
                        );
                    }),
            ],
            Places(all),
            Campaigns(all, outside)
        );
    }

    private static string Outside(string query) => $"{query} not network = *";

    private static readonly string OfDay = EventCounts.Floor("e.Time", EventCounts.DayMilliseconds);

    private const string Named = "(SELECT Value FROM activity_value WHERE Id = ";

    private static List<ApplicationRate> Applications(EventQuestion all) =>
        [
            .. all.Rows(
                    $"SELECT COALESCE({Named}e.Application), ''), {OfDay}, o.Value, COUNT(*)",
                    "GROUP BY 1, 2, 3 ORDER BY 1, 2",
                    r =>
                        (
                            Application: r.GetString(0),
                            Day: r.GetInt64(1),
                            Outcome: r.IsDBNull(2) ? "" : r.GetString(2),
                            Count: r.GetInt64(3)
                        ),
                    "LEFT JOIN activity_value o ON o.Id = e.Outcome"
                )
                .GroupBy(r => r.Application)
                .Select(a => new ApplicationRate(
                    a.Key.Length == 0 ? "not named" : a.Key,
                    Sum(a, "success"),
                    Sum(a, "failure"),
                    Sum(a, "interrupted"),
                    [
                        .. a.GroupBy(r => r.Day)
                            .Select(d => new ApplicationDay(
                                Instant
                                    .FromUnixTimeMilliseconds(d.Key * EventCounts.DayMilliseconds)
                                    .InUtc()
                                    .Date.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture),
                                Sum(d, "success"),
                                Sum(d, "failure"),
                                Sum(d, "interrupted")
                            )),
                    ],
                    $"action == sign-in and application == {EventEndpoints.Quoted(a.Key)}"
                ))
                .OrderByDescending(a => a.Success + a.Failure),
        ];

    private static long Sum(IEnumerable<(string, long, string Outcome, long Count)> rows, string outcome) =>
        rows.Where(r => r.Outcome == outcome).Sum(r => r.Count);

    private static List<SignInPlace> Places(EventQuestion all) =>
        all.Rows(
            $"""
            SELECT {Named}e.Place), COALESCE({Named}e.Country), ''), MAX(e.Latitude), MAX(e.Longitude),
                SUM(o.Value = 'success'), SUM(o.Value = 'failure')
            """,
            "AND e.Place IS NOT NULL GROUP BY e.Place, e.Country ORDER BY COUNT(*) DESC LIMIT 200",
            r => new SignInPlace(
                r.GetString(0),
                r.GetString(1),
                r.IsDBNull(2) ? null : r.GetDouble(2),
                r.IsDBNull(3) ? null : r.GetDouble(3),
                r.IsDBNull(4) ? 0 : r.GetInt64(4),
                r.IsDBNull(5) ? 0 : r.GetInt64(5),
                $"action == sign-in and place == {EventEndpoints.Quoted(r.GetString(0))}"
            ),
            "LEFT JOIN activity_value o ON o.Id = e.Outcome"
        );

    private static List<SignInCampaign> Campaigns(EventQuestion all, EventQuestion outside)
    {
        var found = outside.Rows(
            $"SELECT {Named}e.Actor), COUNT(*), COUNT(DISTINCT e.Address), MIN(e.Time), MAX(e.Time)",
            string.Create(
                CultureInfo.InvariantCulture,
                $"""
                AND e.Actor IS NOT NULL GROUP BY e.Actor
                HAVING COUNT(DISTINCT e.Address) >= {CampaignAddresses} ORDER BY 3 DESC, 2 DESC LIMIT {MostCampaigns}
                """
            ),
            r => (r.GetString(0), r.GetInt64(1), r.GetInt64(2), r.GetInt64(3), r.GetInt64(4))
        );
        // Whoever got in from an address from which others had failed on the same account.
        var entered = Pairs(outside, "")
            .Intersect(Pairs(all, "AND o.Value = 'success'"))
            .Select(p => p.Actor)
            .ToHashSet();
        return
        [
            .. found.Select(c => new SignInCampaign(
                c.Item1,
                c.Item2,
                c.Item3,
                Instant.FromUnixTimeMilliseconds(c.Item4),
                Instant.FromUnixTimeMilliseconds(c.Item5),
                entered.Contains(c.Item1),
                Outside($"action == sign-in and outcome == failure and actor == {EventEndpoints.Quoted(c.Item1)}")
            )),
        ];
    }

    private static List<(string Actor, string Address)> Pairs(EventQuestion of, string and) =>
        of.Rows(
            $"SELECT DISTINCT {Named}e.Actor), {Named}e.Address)",
            $"AND e.Actor IS NOT NULL AND e.Address IS NOT NULL {and}",
            r => (r.GetString(0), r.GetString(1)),
            "LEFT JOIN activity_value o ON o.Id = e.Outcome"
        );

    /// <summary>From the event, its neighbours, and the person's state.</summary>
    private static async Task<Reply<Diagnosis>> Diagnose(long id, [AsParameters] ApiContext context)
    {
        if (await EventEndpoints.FindAsync(id, context) is not { Event: { Action: "sign-in" } e })
        {
            return Problems.NotFound("sign-in");
        }

        var known = (await SignInCatalogue.LoadAsync(context.Db, context.Cancel)).Find(e.Code);
        List<string> grounds = [];
        if (e.Actor is { } actor)
        {
            await AddPersonAsync(grounds, actor, e.Time, context);
            var by = EventEndpoints.Quoted(actor);
            var day = $"time within \"{EventLine.Text(e.Time - Duration.FromDays(1))} {EventLine.Text(e.Time)}\"";
            var failures = await EventEndpoints.CountAsync(
                $"action == sign-in and outcome == failure and actor == {by} and {day}",
                context
            );
            grounds.Add($"{Wording.Number(failures)} failed attempts on this account within the day before it.");
            if (e.Address is { } address)
            {
                var before = await EventEndpoints.CountAsync(
                    $"action == sign-in and outcome == success and actor == {by} and address == {EventEndpoints.Quoted(address)} "
                        + $"and time < {EventLine.Text(e.Time)}",
                    context
                );
                grounds.Add(
                    before == 0
                        ? $"Nobody ever signed in to it from {address} before."
                        : $"It was signed in to from {address} {Wording.Number(before)} times before."
                );
            }

            var after = await EventEndpoints.CountAsync(
                $"action == sign-in and outcome == success and actor == {by} and time within "
                    + $"\"{EventLine.Text(e.Time)} {EventLine.Text(e.Time + Duration.FromHours(1))}\"",
                context
            );
            grounds.Add(after == 0 ? "No sign-in followed within an hour." : "A sign-in followed within an hour.");
        }

        return new Diagnosis(
            known?.Words
                ?? (
                    e.Outcome == EventOutcome.Success
                        ? "It succeeded."
                        : "The source gave no reason that the catalogue knows."
                ),
            known?.Next ?? "Look at what else happened around it.",
            grounds
        );
    }

    private static async Task AddPersonAsync(List<string> grounds, string actor, Instant at, ApiContext context)
    {
        var person = await context
            .Db.DirectoryPeople.AsNoTracking()
            .FirstOrDefaultAsync(p => p.Mail == actor, context.Cancel);
        grounds.Add(
            person is null ? "The directory knows no such person."
            : person.LeavesOn is { } left && left < at.InUtc().Date ? $"{person.Name} left on {Wording.Day(left)}."
            : $"{person.Name}, {(person.Title.Length == 0 ? "no title" : person.Title)}, {person.Unit}."
        );
    }
}

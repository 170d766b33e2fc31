using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Core.Readiness;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.People;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>Asks those whom a policy binds to acknowledge it, and reminds those who are late.</summary>
internal sealed class PolicyAsking(WriteSession session, OrganisationCalendar calendar)
{
    /// <summary>Days from one reminder to the next.</summary>
    private const int RemindDays = 7;

    /// <summary>Asks everybody in scope whom nobody has asked.</summary>
    /// <returns>How many.</returns>
    public async Task<int> AskAsync(PolicyStanding policy, CancellationToken cancel)
    {
        List<PolicyCopy> asked = [];
        foreach (var reader in policy.Readers.Where(r => r.State == Acknowledgement.NotAsked))
        {
            var copy = new PolicyCopy
            {
                PolicyId = policy.Row.Id,
                Number = policy.InForce!.Number,
                Mail = reader.Person.Id,
                Name = reader.Person.Name,
                AskedOn = calendar.Today,
            };
            session.Db.PolicyCopies.Add(copy);
            asked.Add(copy);
        }

        await session.Db.SaveChangesAsync(cancel);
        foreach (var copy in asked)
        {
            await SendAsync(policy, copy, $"Please read “{policy.Row.Title}”", "it binds you", cancel);
        }

        if (asked.Count > 0)
        {
            session.Record(
                "acknowledgement-asked",
                Subject(policy.Row),
                after: new JsonObject { ["people"] = asked.Count, ["version"] = policy.InForce!.Number }
            );
        }

        return asked.Count;
    }

    /// <summary>Reminds everybody whose time is over.</summary>
    /// <param name="all">Those too who were reminded within the week.</param>
    /// <returns>How many.</returns>
    public async Task<int> RemindAsync(PolicyStanding policy, bool all, CancellationToken cancel)
    {
        var late = policy
            .Readers.Where(r =>
                r.State == Acknowledgement.Overdue
                && (all || r.Copy!.RemindedOn is not { } last || last.PlusDays(RemindDays) <= calendar.Today)
            )
            .ToList();
        foreach (var copy in late.Select(r => r.Copy!))
        {
            copy.RemindedOn = calendar.Today;
            copy.Reminders++;
            await SendAsync(
                policy,
                copy,
                $"Still to be read: “{policy.Row.Title}”",
                "you have not acknowledged it",
                cancel
            );
        }

        if (late.Count > 0)
        {
            session.Record(
                "acknowledgement-reminded",
                Subject(policy.Row),
                after: new JsonObject { ["people"] = late.Count }
            );
        }

        return late.Count;
    }

    private async Task SendAsync(
        PolicyStanding policy,
        PolicyCopy copy,
        string subject,
        string because,
        CancellationToken cancel
    )
    {
        var secret = PersonLinks.Issue(session, (LinkKind.Policy, copy.Id), copy.Mail, Duration.FromDays(180));
        Outbox.Send(
            session,
            new DirectoryPerson { Name = copy.Name, Mail = copy.Mail },
            null,
            new(
                "policy",
                subject,
                $"“{policy.Row.Title}”, version {Wording.Number(policy.InForce!.Number)}, binds you"
                    + $" since {Wording.Day(policy.InForce.InForceFrom)}. Please read it, and say that you know it, by"
                    + $" {Wording.Day(copy.AskedOn.PlusDays(policy.Row.Days))}.",
                because
            ),
            "/policy/{secret}",
            secret
        );
    }

    public static LedgerSubject Subject(PolicyRow row) => LedgerSubject.Of("policy", row.Id);
}

/// <summary>The morning's asking and reminding.</summary>
internal sealed class PolicyMorning(OrganisationDirectory directory) : IDailyTask
{
    public async Task RunAsync(DailyQuestion asked)
    {
        var asking = new PolicyAsking(asked.Session, asked.Calendar);
        foreach (var row in await PolicyBook.Whole(asked.Session.Db).ToListAsync(asked.Cancel))
        {
            var policy = PolicyBook.Of(row, directory.State, asked.Today);
            if (row.AsksItself)
            {
                await asking.AskAsync(policy, asked.Cancel);
            }

            await asking.RemindAsync(policy, all: false, asked.Cancel);
        }
    }
}

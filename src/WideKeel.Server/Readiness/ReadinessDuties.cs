using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>Routines due, evidence that ends, requests due or returned, tests that fail, gauges in alarm.</summary>
internal sealed class ReadinessDuties : IDutySource
{
    private const int Soon = 30;

    // Long because it gathers what waits for the doer, and what waits for who answers for all.
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked)
    {
        var mail = asked.Caller.Mail.ToLowerInvariant();
        var manages = asked.Caller.May(Right.ManageReadiness);
        var parts = await (
            from part in asked.Db.ControlParts.Include(p => p.Proofs)
            join control in asked.Db.Controls on part.ControlId equals control.Id
            where manages || part.Doer == mail || part.Deputy == mail || control.Owner == mail
            select new { Part = part, Control = control }
        )
            .AsNoTracking()
            .ToListAsync(asked.Cancel);
        var own = parts
            .Where(p => p.Part.Doer == mail || (p.Part.Doer.Length == 0 && p.Control.Owner == mail))
            .ToList();
        List<Duty> duties =
        [
            .. own.SelectMany(p => Of(p.Part, p.Control, asked)),
            .. parts
                .Where(p => ProofReaders.ToApprove(p.Part, p.Control.Owner, asked.Caller) is not null)
                .Select(p => Approval(p.Part, p.Control, asked)),
        ];
        if (manages)
        {
            var others = parts.Except(own).SelectMany(p => Of(p.Part, p.Control, asked)).ToList();
            if (others.Count > 0)
            {
                duties.Add(
                    new(
                        "evidence",
                        "evidence-of-others",
                        $"{Wording.Plural(others.Count, "routine or piece of evidence", "routines and pieces of evidence")} of others wait",
                        $"The first: {others.MinBy(d => d.By ?? asked.Today)!.Title}.",
                        null,
                        "this week",
                        "Look at the evidence",
                        "/readiness/evidence",
                        false
                    )
                );
            }

            var failing = parts
                .Where(p =>
                    p.Part.Kind == PartKind.Test && p.Part.Proofs.Count > 0 && !p.Part.Proofs.MaxBy(x => x.Id)!.Passed
                )
                .ToList();
            if (failing.Count > 0)
            {
                duties.Add(
                    new(
                        "test",
                        "failing-tests",
                        $"{Wording.Plural(failing.Count, "test")} fail",
                        $"{string.Join(", ", failing.Take(3).Select(f => f.Part.Title))}{(failing.Count > 3 ? " …" : "")}.",
                        null,
                        "this week",
                        "Look at the controls",
                        "/readiness/controls?state=failing",
                        false
                    )
                );
            }
        }

        if (manages)
        {
            duties.AddRange(await OfFilesAsync(asked));
            duties.AddRange(await OfAskersAsync(asked));
            duties.AddRange(await OfPoliciesAsync(asked));
        }

        return
        [
            .. duties,
            .. await OfReaderAsync(asked, mail),
            .. await OfAuditsAsync(asked, mail, manages),
            .. await OfFindingsAsync(asked, mail, manages),
        ];
    }

    /// <summary>Evidence that counts once the caller, or another second person, has approved it.</summary>
    private static Duty Approval(ControlPartRow part, ControlRow control, DutyQuestion asked) =>
        new(
            "evidence",
            $"evidence-approval-{Wording.Id(part.Id)}",
            $"Approve the evidence “{part.Title}”",
            $"{ProofReaders.Awaiting(part)!.Says} It counts for {control.Code}, {control.Title}, once you approve it.",
            null,
            "this week",
            "Review",
            Link(asked, $"controls?control={Wording.Id(control.Id)}"),
            false
        );

    /// <summary>Policies that the person is asked to acknowledge.</summary>
    private static async Task<IEnumerable<Duty>> OfReaderAsync(DutyQuestion asked, string mail)
    {
        var copies = await asked
            .Db.PolicyCopies.AsNoTracking()
            .Where(c => c.Mail == mail && c.AcknowledgedAt == null)
            .ToListAsync(asked.Cancel);
        if (copies.Count == 0)
        {
            return [];
        }

        var ids = copies.Select(c => c.PolicyId).ToHashSet();
        var policies = await asked
            .Db.Policies.AsNoTracking()
            .Include(p => p.Versions)
            .Where(p => ids.Contains(p.Id))
            .ToDictionaryAsync(p => p.Id, asked.Cancel);
        return copies
            .Where(c => !PolicyReaders.IsSuperseded(policies[c.PolicyId], c.Number, asked.Today))
            .Select(c => (Copy: c, Policy: policies[c.PolicyId], Due: c.AskedOn.PlusDays(policies[c.PolicyId].Days)))
            .Select(c => new Duty(
                "policy",
                $"policy-copy-{Wording.Id(c.Copy.Id)}",
                $"Read “{c.Policy.Title}”, version {Wording.Number(c.Copy.Number)}",
                "It binds you; say that you know it.",
                c.Due,
                Wording.Left(asked.Today, c.Due),
                "Read it",
                $"/policy/{Wording.Id(c.Copy.Id)}",
                c.Due < asked.Today
            ));
    }

    /// <summary>Files that were found missing or changed.</summary>
    private static async Task<IEnumerable<Duty>> OfFilesAsync(DutyQuestion asked)
    {
        var broken = await GivenFilesJob.BrokenAsync(asked.Db, asked.Cancel);
        return broken.Count == 0
            ? []
            :
            [
                new(
                    "evidence",
                    "broken-files",
                    $"{Wording.Plural(broken.Count, "file")} that {(broken.Count == 1 ? "was" : "were")} given "
                        + $"{(broken.Count == 1 ? "is" : "are")} missing or changed",
                    $"{string.Join(", ", broken.Take(3))}{(broken.Count > 3 ? " …" : "")}. "
                        + "Restore from a backup, or give the file again; until then it does not count.",
                    null,
                    "now",
                    "Look at the evidence",
                    "/readiness/evidence",
                    true
                ),
            ];
    }

    /// <summary>Outsiders who ask for a document.</summary>
    private static async Task<IEnumerable<Duty>> OfAskersAsync(DutyQuestion asked)
    {
        var waiting = await asked.Db.DocumentAsks.CountAsync(a => a.DecidedAt == null, asked.Cancel);
        return waiting == 0
            ? []
            :
            [
                new(
                    "assurance",
                    "document-asks",
                    $"{Wording.Plural(waiting, "person", "people")} outside {(waiting == 1 ? "asks" : "ask")} for a document",
                    "They get it, with their name on every page, when somebody agrees.",
                    null,
                    "this week",
                    "Decide",
                    "/readiness/assurance",
                    false
                ),
            ];
    }

    /// <summary>Versions of policies that wait for the approval of somebody who did not write them.</summary>
    private static async Task<IEnumerable<Duty>> OfPoliciesAsync(DutyQuestion asked)
    {
        var waiting = await (
            from version in asked.Db.PolicyVersions
            join policy in asked.Db.Policies on version.PolicyId equals policy.Id
            where version.ApprovedAt == null && policy.EndedOn == null
            select new { Version = version, policy.Title }
        )
            .AsNoTracking()
            .ToListAsync(asked.Cancel);
        return waiting
            .Where(v => asked.Caller.NotSecondTo(v.Version.MadeById, PolicyVersionEndpoints.WroteIt) is null)
            .Select(v => new Duty(
                "policy",
                $"policy-{Wording.Id(v.Version.Id)}",
                $"Version {Wording.Number(v.Version.Number)} of “{v.Title}” waits for approval",
                $"Written by {v.Version.MadeBy}; it is to bind from {Wording.Day(v.Version.InForceFrom)}.",
                v.Version.InForceFrom,
                Wording.Left(asked.Today, v.Version.InForceFrom),
                "Read it and decide",
                $"/readiness/policies?policy={Wording.Id(v.Version.PolicyId)}",
                v.Version.InForceFrom < asked.Today
            ));
    }

    /// <summary>A page of readiness, or for somebody who may not read it the page where they do what waits for them.</summary>
    private static string Link(DutyQuestion asked, string page) =>
        asked.Caller.May(Right.ReadReadiness) ? $"/readiness/{page}" : "/my-evidence";

    private static IEnumerable<Duty> Of(ControlPartRow part, ControlRow control, DutyQuestion asked)
    {
        var today = asked.Today;
        var link = Link(asked, $"controls?control={Wording.Id(control.Id)}");
        if (part is { Kind: PartKind.Routine, First: { } first })
        {
            var due = Recurrence.Latest(first, part.Recurrence, today);
            var done = ReadinessBook.Valid(part).Max(p => (LocalDate?)p.Day);
            if (due is not null && !(done >= due))
            {
                yield return new(
                    "routine",
                    $"routine-{Wording.Id(part.Id)}",
                    part.Title,
                    $"A routine of {control.Code}, {control.Title}.",
                    due,
                    Wording.Left(today, due.Value),
                    "Do it and say so",
                    link,
                    due < today.PlusDays(-7)
                );
            }
        }
        else if (part.Kind == PartKind.Evidence && ProofReaders.Awaiting(part) is null)
        {
            var ends = ReadinessBook.EndsOn(part, today);
            var counts = ReadinessBook.PartOf(part, today).CountsOn(today);
            if (!counts || ends < today.PlusDays(Soon))
            {
                yield return new(
                    "evidence",
                    $"evidence-{Wording.Id(part.Id)}",
                    part.Title,
                    $"Evidence of {control.Code}, {control.Title}: "
                        + (counts ? $"it counts until {Wording.Day(ends!.Value)}." : "there is none that counts."),
                    ends,
                    counts ? Wording.Left(today, ends!.Value) : "missing",
                    "Bring it anew",
                    link,
                    !counts
                );
            }
        }
    }

    private static async Task<IEnumerable<Duty>> OfAuditsAsync(DutyQuestion asked, string mail, bool manages)
    {
        var requests = await (
            from request in asked.Db.AuditRequests
            join audit in asked.Db.Audits on request.AuditId equals audit.Id
            where
                audit.ClosedAt == null
                && (request.State == RequestState.Open || request.State == RequestState.Returned)
                && (manages || request.Owner == mail)
            select new
            {
                request.Id,
                request.Number,
                request.What,
                request.Due,
                request.State,
                audit.Name,
                AuditId = audit.Id,
            }
        )
            .AsNoTracking()
            .ToListAsync(asked.Cancel);
        return requests
            .Where(r => r.State == RequestState.Returned || r.Due <= asked.Today.PlusDays(Soon))
            .Select(r => new Duty(
                "audit",
                $"request-{Wording.Id(r.Id)}",
                r.State == RequestState.Returned ? $"Returned: {r.What}" : r.What,
                $"Request {Wording.Number(r.Number)} of {r.Name}.",
                r.Due,
                Wording.Left(asked.Today, r.Due),
                "Open the request",
                Link(asked, $"audits?audit={Wording.Id(r.AuditId)}"),
                r.State == RequestState.Returned || r.Due < asked.Today
            ));
    }

    /// <summary>Actions on findings, for whoever is to take them and who manages readiness.</summary>
    private static async Task<IEnumerable<Duty>> OfFindingsAsync(DutyQuestion asked, string mail, bool manages)
    {
        var soon = asked.Today.PlusDays(Soon);
        var findings = await (
            from finding in asked.Db.Set<AuditFinding>()
            join audit in asked.Db.Audits on finding.AuditId equals audit.Id
            where
                finding.DoneOn == null
                && audit.ClosedAt == null
                && (finding.Due <= soon || (finding.Due == null && finding.Response == ""))
                && (manages || finding.Owner == mail)
            select new { Finding = finding, audit.Name }
        )
            .AsNoTracking()
            .ToListAsync(asked.Cancel);
        return findings.Select(f => new Duty(
            "audit",
            $"finding-{Wording.Id(f.Finding.Id)}",
            f.Finding.Action.Length > 0 ? f.Finding.Action : f.Finding.Title,
            $"On the finding “{f.Finding.Title}” of {f.Name}.",
            f.Finding.Due,
            f.Finding.Due is { } due ? Wording.Left(asked.Today, due) : "no answer yet",
            "Look at the finding",
            Link(asked, $"audits?audit={Wording.Id(f.Finding.AuditId)}&tab=findings"),
            f.Finding.Due < asked.Today
        ));
    }
}

using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.Time;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Text">What was done, and what shows it.</param>
/// <param name="Due">The due day that it is for; null for the latest.</param>
public sealed record RoutineProof(string Text, DateOnly? Due = null);

/// <param name="Reason">Why it shows no longer what it was to show.</param>
public sealed record ProofWithdrawal(string Reason);

/// <summary>
/// Proofs that people give: routines that are done, and files as evidence. They are reviewed by somebody else where the
/// part asks for that, and withdrawn with a reason; none is ever deleted.
/// </summary>
internal static class ProofGiving
{
    internal const string GaveIt = "You gave it; another person must review it.";

    private const int MostReason = 1000;

    public static void MapProofGiving(this IEndpointRouteBuilder api)
    {
        api.MapPost("/control-parts/{id:long}/done", DoneAsync).RequiresSignIn();
        api.MapPost("/control-parts/{id:long}/evidence", Give).RequiresSignIn().TakesUpTo(StoredFiles.MostBytes + 1);
        api.MapPost("/proofs/{id:long}/review", Review).RequiresSignIn();
        api.MapPost("/proofs/{id:long}/withdrawal", Withdraw).RequiresSignIn();
    }

    /// <summary>A part of the kind for which the caller may bring a proof.</summary>
    private static async Task<ControlPartRow?> MineAsync(long id, PartKind kind, WideKeelDb db, ApiContext context)
    {
        var part = await db.ControlParts.SingleOrDefaultAsync(p => p.Id == id && p.Kind == kind, context.Cancel);
        return part is not null && ProofReaders.MayBring(part, await OwnerAsync(part, db, context), context.Caller)
            ? part
            : null;
    }

    private static Task<string> OwnerAsync(ControlPartRow part, WideKeelDb db, ApiContext context) =>
        db.Controls.Where(c => c.Id == part.ControlId).Select(c => c.Owner).SingleAsync(context.Cancel);

    private static async Task<Reply<Done>> DoneAsync(
        long id,
        RoutineProof request,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await MineAsync(id, PartKind.Routine, session.Db, context) is not { } part)
                {
                    return Problems.NotFound("routine of yours");
                }

                if (string.IsNullOrWhiteSpace(request.Text))
                {
                    return new Refusal("proof-missing", "text", "Say what was done and what shows it.");
                }

                var due = DueOf(part, request.Due, context.Calendar.Today);
                if (due.Refusal is { } refusal)
                {
                    return refusal;
                }

                session.Db.PartProofs.Add(
                    new()
                    {
                        PartId = part.Id,
                        At = session.Now,
                        Day = due.Value,
                        Passed = true,
                        Says = request.Text.Trim(),
                        By = context.Caller.Name,
                        ById = context.Caller.PersonId,
                        Hash = ContentHash.Of(request.Text.Trim()),
                    }
                );
                session.Record(
                    "routine-done",
                    ControlEndpoints.Subject(part.ControlId),
                    after: new JsonObject
                    {
                        ["routine"] = part.Title,
                        ["due"] = LocalDatePattern.Iso.Format(due.Value),
                    },
                    reason: request.Text
                );
                await ReadinessNotes.TakeAsync(session, context.Calendar, context.Cancel);
                return new Done();
            },
            context.Cancel
        );

    /// <summary>The due day that a proof is for: one that the rule gives, and that has come.</summary>
    private static Outcome<LocalDate> DueOf(ControlPartRow part, DateOnly? asked, LocalDate today)
    {
        if (Recurrence.Latest(part.First!.Value, part.Recurrence, today) is not { } latest)
        {
            return Refusal.Conflict(
                "not-due-yet",
                "due",
                $"The routine is due on {Wording.Day(part.First.Value)} for the first time."
            );
        }

        if (asked is null)
        {
            return latest;
        }

        var day = LocalDate.FromDateOnly(asked.Value);
        return Recurrence.Latest(part.First.Value, part.Recurrence, Earlier(day, today)) == day
            ? day
            : new Refusal(
                "due-unknown",
                "due",
                $"{Wording.Day(day)} is not a due day that has come; the latest is {Wording.Day(latest)}."
            );
    }

    private static LocalDate Earlier(LocalDate one, LocalDate other) => one < other ? one : other;

    /// <summary>Takes a file as evidence of one part, or of several.</summary>
    /// <param name="file">Its name.</param>
    /// <param name="also">Ids of other parts that the same file is evidence of.</param>
    /// <param name="day">Its own date; today where there is none.</param>
    /// <param name="coversFrom">The first day of the period that it covers.</param>
    private static async Task<Reply<Done>> Give(
        long id,
        string file,
        [FromQuery] long[]? also,
        DateOnly? day,
        DateOnly? coversFrom,
        DateOnly? coversThrough,
        HttpRequest request,
        WideKeelOptions options,
        ContentScanner scanner,
        [AsParameters] ApiContext context
    )
    {
        List<ControlPartRow> parts = [];
        foreach (var part in (also ?? []).Prepend(id).Distinct())
        {
            if (await MineAsync(part, PartKind.Evidence, context.Db, context) is not { } mine)
            {
                return Problems.NotFound("evidence of yours");
            }

            parts.Add(mine);
        }

        var dates = DatesOf(day, coversFrom, coversThrough, context.Calendar.Today);
        if (dates.Refusal is { } wrong)
        {
            return wrong;
        }

        var taken = await StoredFiles.TakeAsync(request.Body, file, options, scanner, context.Cancel);
        if (taken.Refusal is { } refusal)
        {
            return refusal;
        }

        using var given = taken.Value;
        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                foreach (var part in parts)
                {
                    Add(session, part, given, dates.Value, context.Caller);
                }

                await ReadinessNotes.TakeAsync(session, context.Calendar, context.Cancel);
                given.Keep();
                return new Done();
            },
            context.Cancel
        );
    }

    private static Outcome<(LocalDate Day, LocalDate? From, LocalDate? Through)> DatesOf(
        DateOnly? day,
        DateOnly? from,
        DateOnly? through,
        LocalDate today
    )
    {
        var own = day is { } given ? LocalDate.FromDateOnly(given) : today;
        return own > today
                ? new Refusal(
                    "day-ahead",
                    "day",
                    $"{Wording.Day(own)} is still to come; evidence is of a day that has come."
                )
            : from is null != through is null || from > through
                ? new Refusal(
                    "period-malformed",
                    "coversFrom",
                    "A period has a first day and a last day that is not before it."
                )
            : (own, Of(from), Of(through));
        static LocalDate? Of(DateOnly? date) => date is { } there ? LocalDate.FromDateOnly(there) : null;
    }

    private static void Add(
        WriteSession session,
        ControlPartRow part,
        GivenFile given,
        (LocalDate Day, LocalDate? From, LocalDate? Through) dates,
        Caller caller
    )
    {
        session.Db.PartProofs.Add(
            new()
            {
                PartId = part.Id,
                At = session.Now,
                Day = dates.Day,
                CoversFrom = dates.From,
                CoversThrough = dates.Through,
                Passed = true,
                Says = $"{given.Name}, given by {caller.Name}.",
                By = caller.Name,
                ById = caller.PersonId,
                Hash = given.Hash,
                FileName = given.Name,
                Bytes = given.Bytes,
            }
        );
        session.Record(
            "evidence-given",
            ControlEndpoints.Subject(part.ControlId),
            after: new JsonObject
            {
                ["evidence"] = part.Title,
                ["file"] = given.Name,
                ["bytes"] = given.Bytes,
                ["sha256"] = given.Hash,
                ["day"] = LocalDatePattern.Iso.Format(dates.Day),
            }
        );
    }

    /// <summary>Says that evidence shows what it is to show: by somebody else than who gave it.</summary>
    private static Task<Reply<Done>> Review(long id, [AsParameters] ApiContext context) =>
        ProofAsync(
            id,
            context,
            (session, proof, part) =>
            {
                if (!part.NeedsReview || proof.ReviewedAt is not null)
                {
                    return Refusal.Conflict("nothing-to-review", null, "This proof does not wait for a review.");
                }

                if (context.Caller.NotSecondTo(proof.ById, GaveIt) is { } not)
                {
                    return Refusal.Forbidden("second-person-needed", null, not);
                }

                (proof.ReviewedAt, proof.ReviewedBy) = (session.Now, context.Caller.Name);
                session.Record(
                    "evidence-reviewed",
                    ControlEndpoints.Subject(part.ControlId),
                    after: Described(proof, part)
                );
                return null;
            }
        );

    /// <summary>Takes a proof back. It stays with its reason, and in every room that it was offered to.</summary>
    private static Task<Reply<Done>> Withdraw(long id, ProofWithdrawal request, [AsParameters] ApiContext context) =>
        ProofAsync(
            id,
            context,
            (session, proof, part) =>
            {
                if (string.IsNullOrWhiteSpace(request.Reason) || request.Reason.Length > MostReason)
                {
                    return new Refusal("reason-missing", "reason", "Give a reason of at most 1,000 characters.");
                }

                (proof.WithdrawnAt, proof.WithdrawnBy) = (session.Now, context.Caller.Name);
                proof.WithdrawnWhy = request.Reason.Trim();
                session.Record(
                    "proof-withdrawn",
                    ControlEndpoints.Subject(part.ControlId),
                    Described(proof, part),
                    reason: proof.WithdrawnWhy
                );
                return null;
            }
        );

    /// <summary>Works on a proof that a person gave, that is not withdrawn, and of which the caller may bring another.</summary>
    private static async Task<Reply<Done>> ProofAsync(
        long id,
        ApiContext context,
        Func<WriteSession, PartProof, ControlPartRow, Refusal?> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var proof = await session.Db.PartProofs.SingleOrDefaultAsync(p => p.Id == id, context.Cancel);
                if (
                    proof is null
                    || await session.Db.ControlParts.SingleOrDefaultAsync(p => p.Id == proof.PartId, context.Cancel)
                        is not { } part
                    || !ProofReaders.MayBring(part, await OwnerAsync(part, session.Db, context), context.Caller)
                )
                {
                    return Problems.NotFound("proof of yours");
                }

                if (part.Kind == PartKind.Test)
                {
                    return Refusal.Conflict("run-stays", null, "The run of a test is not given, and not withdrawn.");
                }

                if (proof.WithdrawnAt is not null)
                {
                    return Refusal.Conflict("proof-withdrawn", null, $"{proof.WithdrawnBy} has withdrawn it.");
                }

                if (work(session, proof, part) is { } refusal)
                {
                    return refusal;
                }

                await ReadinessNotes.TakeAsync(session, context.Calendar, context.Cancel);
                return new Done();
            },
            context.Cancel
        );

    private static JsonObject Described(PartProof proof, ControlPartRow part) =>
        new()
        {
            ["part"] = part.Title,
            ["day"] = LocalDatePattern.Iso.Format(proof.Day),
            ["says"] = proof.Says,
            ["sha256"] = proof.Hash,
        };
}

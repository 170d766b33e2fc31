using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.People;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>A policy as somebody reads it whom it binds, and nothing else.</summary>
/// <param name="FileName">Empty where there is no file beside the text.</param>
/// <param name="DueOn">Until when they are to acknowledge.</param>
/// <param name="Superseded">A later version binds; that one is acknowledged.</param>
public sealed record PolicyPage(
    string Organisation,
    string Name,
    string Title,
    int Number,
    string Change,
    string Text,
    string FileName,
    LocalDate InForceFrom,
    LocalDate DueOn,
    Instant? AcknowledgedAt,
    bool Superseded
);

/// <summary>The page of somebody who is to acknowledge a policy; the key in its address opens this page only.</summary>
public static class PolicyReaders
{
    public static void MapPolicyReaders(this IEndpointRouteBuilder api)
    {
        api.MapGet("/policy/{token}", Page).OpenToAll();
        api.MapGet("/policy/{token}/file", FileOf).OpenToAll();
        api.MapPost("/policy/{token}/opening", Opened).OpenToAll();
        api.MapPost("/policy/{token}/acknowledgement", Acknowledge).OpenToAll();
    }

    /// <summary>What an address opens. The copy is of the database given, so that it can be changed there.</summary>
    private static async Task<(PolicyCopy Copy, PolicyRow Policy, PolicyVersionRow Version)?> FindAsync(
        WideKeelDb db,
        OpenLink? opened,
        CancellationToken cancel
    )
    {
        var copy = opened is null
            ? null
            : await db.PolicyCopies.SingleOrDefaultAsync(c => c.Id == opened.SubjectId, cancel);
        if (copy is null || !string.Equals(copy.Mail, opened!.Mail, StringComparison.OrdinalIgnoreCase))
        {
            return null;
        }

        var policy = await db.Policies.Include(p => p.Versions).SingleAsync(p => p.Id == copy.PolicyId, cancel);
        return (copy, policy, policy.Versions.Single(v => v.Number == copy.Number));
    }

    /// <summary>Whether a version asks nobody any more: the policy has ended, or a later one asks anew.</summary>
    internal static bool IsSuperseded(PolicyRow policy, int number, LocalDate today) =>
        policy.EndedOn < today
        || policy.Versions.Exists(v =>
            v.Number > number && v.ApprovedAt is not null && v.InForceFrom <= today && v.AsksAnew
        );

    private static async Task<Reply<PolicyPage>> Page(
        string token,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        var opened = await links.OpenAsync(LinkKind.Policy, token, context);
        if (await FindAsync(context.Db, opened, context.Cancel) is not var (copy, policy, version))
        {
            return Problems.NotFound("policy");
        }

        var organisation = await context.Db.Organisations.AsNoTracking().SingleAsync(context.Cancel);
        return new PolicyPage(
            organisation.Name,
            copy.Name,
            policy.Title,
            version.Number,
            version.Change,
            version.Text,
            version.FileName,
            version.InForceFrom,
            copy.AskedOn.PlusDays(policy.Days),
            copy.AcknowledgedAt,
            IsSuperseded(policy, version.Number, context.Calendar.Today)
        );
    }

    private static async Task<IResult> FileOf(
        string token,
        WideKeelOptions options,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        var opened = await links.OpenAsync(LinkKind.Policy, token, context);
        var found = await FindAsync(context.Db, opened, context.Cancel);
        return StoredFiles.Send(found?.Version.FileHash ?? "", found?.Version.FileName, options);
    }

    private static async Task<Reply<Done>> Opened(string token, PersonLinks links, [AsParameters] ApiContext context) =>
        await AnswerAsync(
            await links.OpenAsync(LinkKind.Policy, token, context),
            context,
            (session, copy, _, _) =>
            {
                copy.OpenedAt ??= session.Now;
                return null;
            }
        );

    private static async Task<Reply<Done>> Acknowledge(
        string token,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        var opened = await links.OpenAsync(LinkKind.Policy, token, context);
        return opened?.NotProven is { } unproven
            ? unproven
            : await AnswerAsync(
                opened,
                context,
                (session, copy, policy, version) =>
                {
                    if (copy.AcknowledgedAt is not null)
                    {
                        return null;
                    }

                    if (IsSuperseded(policy, version.Number, context.Calendar.Today))
                    {
                        return Refusal.Conflict(
                            "superseded",
                            null,
                            "This version binds nobody any more. A later one comes by a message of its own."
                        );
                    }

                    copy.OpenedAt ??= session.Now;
                    copy.AcknowledgedAt = session.Now;
                    session.Record(
                        "acknowledged",
                        PolicyAsking.Subject(policy),
                        after: new JsonObject
                        {
                            ["title"] = policy.Title,
                            ["version"] = version.Number,
                            ["sha256"] = version.Hash,
                        }
                    );
                    return null;
                }
            );
    }

    private static async Task<Reply<Done>> AnswerAsync(
        OpenLink? opened,
        ApiContext context,
        Func<WriteSession, PolicyCopy, PolicyRow, PolicyVersionRow, Refusal?> work
    )
    {
        if (await FindAsync(context.Db, opened, context.Cancel) is not var (known, _, _))
        {
            return Problems.NotFound("policy");
        }

        return await context.Writer.RunAsync<Done>(
            opened!.ActorNamed(known.Name),
            async session =>
                await FindAsync(session.Db, opened, context.Cancel) is var (copy, policy, version)
                    ? work(session, copy, policy, version) is { } refusal
                        ? refusal
                        : new Done()
                    : Problems.NotFound("policy"),
            context.Cancel
        );
    }
}

using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.Activity;
using WideKeel.Server.People;
using WideKeel.Store.Activity;
using WideKeel.Store.People;

namespace WideKeel.Server.Access;

/// <summary>A change that is thought of or made.</summary>
/// <param name="Role">Of a grant or link.</param>
public sealed record ChangeRequest(
    DirectoryVerb Verb,
    string Who,
    string? What = null,
    string? Role = null,
    string Reason = ""
);

public sealed record DifferenceView(
    string Person,
    string PersonName,
    string Resource,
    string ResourceName,
    bool Sensitive,
    IReadOnlyList<string> Gained,
    IReadOnlyList<string> Lost
);

/// <param name="Says">The change as a sentence.</param>
/// <param name="ToxicPairs">Those that it would make, a sentence each.</param>
/// <param name="Differences">The first 500; the sensitive ones first.</param>
public sealed record AccessConsequences(
    string Says,
    IReadOnlyList<string> ToxicPairs,
    int Gains,
    int Losses,
    int Sensitive,
    int People,
    IReadOnlyList<DifferenceView> Differences
);

public sealed record ChangeMade(string Says, bool Verified);

/// <summary>Changes of the directory: made after their consequences were shown.</summary>
public static class AccessChangeEndpoints
{
    private const int Most = 500;

    public static void MapAccessChanges(this IEndpointRouteBuilder api)
    {
        api.MapPost("/access/consequences", Consequences).Requires(Right.ReadAccess);
        api.MapPost("/access/changes", Change).Requires(Right.ManageAccess);
    }

    private static async Task<Reply<AccessConsequences>> Consequences(
        ChangeRequest request,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        var change = new DirectoryChange(request.Verb, request.Who, request.What, request.Role);
        if (Check(change, ground.State) is { } refusal)
        {
            return refusal;
        }

        var facts = await ground.FactsAsync(context.Db, context.Cancel);
        var differences = AccessChange.Differences(ground.Access, change);
        return new AccessConsequences(
            change.InWords(),
            NewPairs(facts, ground.Access, change),
            differences.Count(d => d.Gained.Count > 0),
            differences.Count(d => d.Lost.Count > 0),
            differences.Count(d => facts.Resources[d.Resource].Sensitive),
            differences.Select(d => d.Person).Distinct().Count(),
            [
                .. differences
                    .OrderByDescending(d => facts.Resources[d.Resource].Sensitive)
                    .Take(Most)
                    .Select(d => new DifferenceView(
                        d.Person,
                        ReachEndpoints.NameOf(facts, d.Person),
                        d.Resource,
                        facts.Resources[d.Resource].Name,
                        facts.Resources[d.Resource].Sensitive,
                        d.Gained,
                        d.Lost
                    )),
            ]
        );
    }

    /// <summary>The toxic pairs that a change would make, a sentence each.</summary>
    private static IReadOnlyList<string> NewPairs(MendingFacts facts, EffectiveAccess access, DirectoryChange change)
    {
        if (facts.Toxic.Count == 0)
        {
            return [];
        }

        var before = Pairs(access);
        return [.. Pairs(access.With(change)).Except(before).Order(StringComparer.Ordinal)];
        HashSet<string> Pairs(EffectiveAccess of) =>
            Mending.List(Mending.Toxic, facts, of)!.Lines.Select(l => l.Words).ToHashSet();
    }

    /// <summary>Whether the directory knows whom and what a change names.</summary>
    internal static Refusal? Check(DirectoryChange change, DirectoryState state)
    {
        var needs = change.Verb switch
        {
            DirectoryVerb.AddMember or DirectoryVerb.RemoveMember => state.Groups.Any(g => g.Id == change.What),
            DirectoryVerb.AddGrant or DirectoryVerb.RemoveGrant or DirectoryVerb.AddLink or DirectoryVerb.RemoveLink =>
                state.Resources.Any(r => r.Id == change.What) && !string.IsNullOrWhiteSpace(change.Role),
            DirectoryVerb.AddConsent or DirectoryVerb.RemoveConsent => state.Applications.Any(a => a.Id == change.What),
            DirectoryVerb.SetOwner => state.Groups.Any(g => g.Id == change.What)
                || state.Resources.Any(r => r.Id == change.What),
            _ => true,
        };
        if (!needs)
        {
            return new(
                "target-unknown",
                "what",
                $"The directory does not know “{change.What}”, or the role is missing."
            );
        }

        var who = change.Verb switch
        {
            DirectoryVerb.AddLink or DirectoryVerb.RemoveLink => change.Who
                is EffectiveAccess.Anyone
                    or EffectiveAccess.Organisation,
            DirectoryVerb.AddConsent or DirectoryVerb.RemoveConsent => change.Who == EffectiveAccess.Organisation
                || state.People.Any(p => p.Id == change.Who),
            DirectoryVerb.AddMember
            or DirectoryVerb.RemoveMember
            or DirectoryVerb.AddGrant
            or DirectoryVerb.RemoveGrant => state.People.Any(p => p.Id == change.Who)
                || state.Groups.Any(g => g.Id == change.Who),
            _ => state.People.Any(p => p.Id == change.Who),
        };
        return who ? Closed(change, state) : new("who-unknown", "who", $"The directory does not know “{change.Who}”.");
    }

    /// <summary>Why a place takes no link for everybody; null where it does, or none is made.</summary>
    private static Refusal? Closed(DirectoryChange change, DirectoryState state) =>
        change is { Verb: DirectoryVerb.AddLink, Who: EffectiveAccess.Anyone }
        && state.Resources.First(r => r.Id == change.What) is { OutsideAllowed: false } closed
            ? Refusal.Conflict(
                "outsiders-forbidden",
                "what",
                $"{closed.Name} is closed to outsiders: it takes no link for anyone."
            )
            : null;

    private static async Task<Reply<ChangeMade>> Change(
        ChangeRequest request,
        AccessGround ground,
        DirectoryCarrier carrier,
        [AsParameters] ApiContext context
    )
    {
        var change = new DirectoryChange(request.Verb, request.Who, request.What, request.Role);
        if (Check(change, ground.State) is { } refusal)
        {
            return refusal;
        }

        var asked = await context.Writer.RunAsync<DirectoryIntent>(
            context.Caller.Actor,
            async session =>
            {
                var intent = carrier.Ask(session, change, request.Reason);
                await session.Db.SaveChangesAsync(context.Cancel);
                return intent;
            },
            context.Cancel
        );
        var answer = await carrier.OutcomeAsync(asked.Value, context.Cancel);
        return answer.Failure is not null
            ? Refusal.Conflict("directory-failed", null, answer.Failure)
            : new ChangeMade(change.InWords(), answer.Verified);
    }
}

using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Code">Short and lasting; it does not change.</param>
/// <param name="Owner">Mail address of who answers for it.</param>
/// <param name="Units">Units whose people it binds.</param>
/// <param name="Groups">Groups whose people it binds; everybody where both are empty.</param>
/// <param name="Days">In which somebody who is asked is to acknowledge, 1 to 365.</param>
/// <param name="AsksItself">Whoever comes into its scope is asked in the morning.</param>
public sealed record PolicySettings(
    string Code,
    string Title,
    string Says,
    string Owner,
    IReadOnlyList<string> Units,
    IReadOnlyList<string> Groups,
    int Days = 14,
    bool AsksItself = false,
    DateOnly? ReviewOn = null
);

/// <param name="Hash">SHA-256 of its text and file.</param>
/// <param name="InForce">It binds today.</param>
public sealed record PolicyVersionView(
    int Number,
    string Change,
    string Text,
    string FileName,
    string Hash,
    Instant MadeAt,
    string MadeBy,
    string ApprovedBy,
    Instant? ApprovedAt,
    LocalDate InForceFrom,
    bool AsksAnew,
    bool InForce,
    bool MayApprove
);

/// <param name="InForce">Number of the version that binds today; null where none does.</param>
/// <param name="Awaits">Number of a version that waits for approval.</param>
/// <param name="ReviewOverdue">Its review is past its day.</param>
public sealed record PolicyView(
    long Id,
    PolicySettings Settings,
    int? InForce,
    int? Awaits,
    bool ReviewOverdue,
    LocalDate? EndedOn,
    int Bound,
    int Given,
    int Asked,
    int Overdue,
    int NotAsked,
    long Revision
) : IRevised;

/// <param name="Number">Of the version that they were asked about.</param>
public sealed record PolicyReaderView(
    string Mail,
    string Name,
    string Unit,
    Acknowledgement State,
    int? Number,
    LocalDate? AskedOn,
    LocalDate? DueOn,
    int Reminders,
    Instant? OpenedAt,
    Instant? AcknowledgedAt
);

public sealed record PolicyDetail(
    PolicyView Policy,
    IReadOnlyList<PolicyVersionView> Versions,
    IReadOnlyList<PolicyReaderView> Readers
);

public sealed record PolicyMade(long Id);

/// <summary>Policies: what each is called, whom it binds, and when it ends.</summary>
public static class PolicyEndpoints
{
    public static void MapPolicies(this IEndpointRouteBuilder api)
    {
        api.MapGet("/policies", List).Requires(Right.ReadReadiness);
        api.MapPost("/policies", Make).Requires(Right.ManageReadiness);
        api.MapGet("/policies/{id:long}", One).Requires(Right.ReadReadiness);
        api.MapPut("/policies/{id:long}", Change).Requires(Right.ManageReadiness);
        api.MapPost("/policies/{id:long}/end", End).Requires(Right.ManageReadiness);
        api.MapPolicyVersions();
        api.MapPolicyAcknowledgements();
    }

    private static async Task<Reply<IReadOnlyList<PolicyView>>> List(
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) =>
        (Outcome<IReadOnlyList<PolicyView>>)
            (
                await PolicyBook
                    .Whole(context.Db)
                    .AsNoTracking()
                    .OrderBy(p => p.EndedOn != null)
                    .ThenBy(p => p.Title)
                    .ToListAsync(context.Cancel)
            )
                .Select(p => View(PolicyBook.Of(p, directory.State, context.Calendar.Today), context.Calendar.Today))
                .ToList();

    private static PolicyView View(PolicyStanding policy, LocalDate today) =>
        new(
            policy.Row.Id,
            SettingsOf(policy.Row),
            policy.InForce?.Number,
            policy.Row.Versions.Where(v => v.ApprovedAt is null).Select(v => (int?)v.Number).Max(),
            policy.Row.EndedOn is null && policy.Row.ReviewOn < today,
            policy.Row.EndedOn,
            policy.Readers.Count,
            policy.Count(Acknowledgement.Given),
            policy.Count(Acknowledgement.Asked),
            policy.Count(Acknowledgement.Overdue),
            policy.Count(Acknowledgement.NotAsked),
            policy.Row.Version
        );

    private static PolicySettings SettingsOf(PolicyRow row) =>
        new(
            row.Code,
            row.Title,
            row.Says,
            row.Owner,
            row.Units,
            row.Groups,
            row.Days,
            row.AsksItself,
            row.ReviewOn?.ToDateOnly()
        );

    private static async Task<Reply<PolicyDetail>> One(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    )
    {
        if (
            await PolicyBook.Whole(context.Db).AsNoTracking().SingleOrDefaultAsync(p => p.Id == id, context.Cancel)
            is not { } row
        )
        {
            return Problems.NotFound("policy");
        }

        var policy = PolicyBook.Of(row, directory.State, context.Calendar.Today);
        var manages = context.Caller.May(Right.ManageReadiness);
        return new PolicyDetail(
            View(policy, context.Calendar.Today),
            [
                .. row
                    .Versions.OrderByDescending(v => v.Number)
                    .Select(v => new PolicyVersionView(
                        v.Number,
                        v.Change,
                        v.Text,
                        v.FileName,
                        v.Hash,
                        v.MadeAt,
                        v.MadeBy,
                        v.ApprovedBy,
                        v.ApprovedAt,
                        v.InForceFrom,
                        v.AsksAnew,
                        v == policy.InForce,
                        manages
                            && v.ApprovedAt is null
                            && context.Caller.NotSecondTo(v.MadeById, PolicyVersionEndpoints.WroteIt) is null
                    )),
            ],
            [.. policy.Readers.Select(r => View(r, row))]
        );
    }

    internal static PolicyReaderView View(PolicyReader reader, PolicyRow row) =>
        new(
            reader.Person.Id,
            reader.Person.Name,
            reader.Person.Unit,
            reader.State,
            reader.Copy?.Number,
            reader.Copy?.AskedOn,
            reader.Copy?.AskedOn.PlusDays(row.Days),
            reader.Copy?.Reminders ?? 0,
            reader.Copy?.OpenedAt,
            reader.Copy?.AcknowledgedAt
        );

    private static Refusal? Check(PolicySettings request, DirectoryState directory)
    {
        if (string.IsNullOrWhiteSpace(request.Title) || request.Title.Length > 300)
        {
            return new("title-missing", "title", "A policy needs a title of at most 300 characters.");
        }

        if (request.Days is < 1 or > 365)
        {
            return new("days-out-of-range", "days", "People have 1 to 365 days to acknowledge.");
        }

        var units = directory.People.Select(p => p.Unit).ToHashSet(StringComparer.OrdinalIgnoreCase);
        return request.Units.FirstOrDefault(u => !units.Contains(u)) is { } unit
                ? new("unit-unknown", "units", $"Nobody of the directory is in the unit “{unit}”.")
            : request.Groups.FirstOrDefault(g => directory.Groups.All(x => x.Id != g)) is { } group
                ? new("group-unknown", "groups", $"The directory has no group “{group}”.")
            : null;
    }

    private static async Task<Reply<PolicyMade>> Make(
        PolicySettings request,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    )
    {
        var code = request.Code.Trim().ToUpperInvariant();
        if (code.Length is 0 or > 40 || !code.All(c => char.IsAsciiLetterOrDigit(c) || c == '-'))
        {
            return new Refusal(
                "code-malformed",
                "code",
                "A code has letters, digits and hyphens, such as POL-RECORDS, and at most 40 characters."
            );
        }

        return Check(request, directory.State) is { } refusal
            ? refusal
            : await context.Writer.RunAsync<PolicyMade>(
                context.Caller.Actor,
                async session =>
                {
                    if (await session.Db.Policies.AnyAsync(p => p.Code == code, context.Cancel))
                    {
                        return Refusal.Conflict("code-taken", "code", $"There is a policy {code} already.");
                    }

                    var row = new PolicyRow { Code = code, Title = request.Title };
                    Apply(row, request);
                    session.Db.Policies.Add(row);
                    await session.Db.SaveChangesAsync(context.Cancel);
                    session.Record("made", PolicyAsking.Subject(row), after: Facts(row));
                    return new PolicyMade(row.Id);
                },
                context.Cancel
            );
    }

    private static void Apply(PolicyRow row, PolicySettings request)
    {
        (row.Title, row.Says) = (request.Title.Trim(), request.Says.Trim());
        row.Owner = request.Owner.Trim().ToLowerInvariant();
        (row.Units, row.Groups) = ([.. request.Units.Distinct()], [.. request.Groups.Distinct()]);
        (row.Days, row.AsksItself) = (request.Days, request.AsksItself);
        row.ReviewOn = request.ReviewOn is { } day ? LocalDate.FromDateOnly(day) : null;
    }

    private static JsonObject Facts(PolicyRow row) =>
        new()
        {
            ["code"] = row.Code,
            ["title"] = row.Title,
            ["units"] = string.Join(", ", row.Units),
            ["groups"] = string.Join(", ", row.Groups),
            ["days"] = row.Days,
        };

    private static async Task<Reply<Done>> Change(
        long id,
        PolicySettings request,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) =>
        await WorkAsync(
            id,
            context,
            (session, row) =>
            {
                if ((Problems.CheckMatch(context.Http, row.Version) ?? Check(request, directory.State)) is { } refusal)
                {
                    return refusal;
                }

                if (!string.Equals(request.Code.Trim(), row.Code, StringComparison.OrdinalIgnoreCase))
                {
                    return new Refusal("code-fixed", "code", $"The code stays {row.Code}.");
                }

                var before = Facts(row);
                Apply(row, request);
                session.Record("changed", PolicyAsking.Subject(row), before, Facts(row));
                return null;
            }
        );

    /// <summary>The policy binds nobody from tomorrow; what was acknowledged stays.</summary>
    private static async Task<Reply<Done>> End(long id, [AsParameters] ApiContext context) =>
        await WorkAsync(
            id,
            context,
            (session, row) =>
            {
                if (row.EndedOn is not null)
                {
                    return Refusal.Conflict("ended", null, "It has ended already.");
                }

                row.EndedOn = context.Calendar.Today;
                session.Record("ended", PolicyAsking.Subject(row), after: Facts(row));
                return null;
            }
        );

    internal static async Task<Outcome<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, PolicyRow, Refusal?> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var row = await session
                    .Db.Policies.Include(p => p.Versions)
                    .SingleOrDefaultAsync(p => p.Id == id, context.Cancel);
                if (row is null)
                {
                    return Problems.NotFound("policy");
                }

                if (work(session, row) is { } refusal)
                {
                    return refusal;
                }

                row.Version++;
                return new Done();
            },
            context.Cancel
        );
}

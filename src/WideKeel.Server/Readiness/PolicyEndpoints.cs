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

/// <param name="Change">What is different; empty for the first.</param>
/// <param name="AsksAnew">Those who acknowledged an earlier one are to acknowledge this one too.</param>
public sealed record NewPolicyVersion(string Text, string Change, DateOnly InForceFrom, bool AsksAnew = true);

/// <param name="Why">In a sentence; it stays in the ledger.</param>
public sealed record VersionRefusal(string Why);

public sealed record PolicyMade(long Id);

/// <param name="Asked">How many people.</param>
public sealed record PolicyAskedOf(int Asked);

/// <summary>Policies: their versions with approval by another person, and their acknowledgement by everybody they bind.</summary>
public static class PolicyEndpoints
{
    private const int LongestText = 200_000;

    /// <summary>Why somebody is no second person.</summary>
    internal const string WroteIt = "wrote this version";

    public static void MapPolicies(this IEndpointRouteBuilder api)
    {
        api.MapGet("/policies", List).Requires(Right.ReadReadiness);
        api.MapPost("/policies", Make).Requires(Right.ManageReadiness);
        api.MapGet("/policies/{id:long}", One).Requires(Right.ReadReadiness);
        api.MapPut("/policies/{id:long}", Change).Requires(Right.ManageReadiness);
        api.MapPost("/policies/{id:long}/end", End).Requires(Right.ManageReadiness);
        api.MapPost("/policies/{id:long}/versions", AddVersion).Requires(Right.ManageReadiness);
        api.MapPut("/policies/{id:long}/versions/{number:int}/file", AddFile)
            .Requires(Right.ManageReadiness)
            .TakesUpTo(StoredFiles.MostBytes + 1);
        api.MapGet("/policies/{id:long}/versions/{number:int}/file", FileOf).Requires(Right.ReadReadiness);
        api.MapPost("/policies/{id:long}/versions/{number:int}/approval", Approve).Requires(Right.ManageReadiness);
        api.MapPost("/policies/{id:long}/versions/{number:int}/refusal", Refuse).Requires(Right.ManageReadiness);
        api.MapPost("/policies/{id:long}/requests", Ask).Requires(Right.ManageReadiness);
        api.MapPost("/policies/{id:long}/reminders", Remind).Requires(Right.ManageReadiness);
        api.MapGet("/policies/{id:long}/acknowledgements.csv", Csv).Requires(Right.ReadReadiness);
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
                        manages && v.ApprovedAt is null && context.Caller.NotSecondTo(v.MadeById, WroteIt) is null
                    )),
            ],
            [.. policy.Readers.Select(r => View(r, row))]
        );
    }

    private static PolicyReaderView View(PolicyReader reader, PolicyRow row) =>
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

    private static async Task<Reply<Done>> AddVersion(
        long id,
        NewPolicyVersion request,
        [AsParameters] ApiContext context
    )
    {
        if (string.IsNullOrWhiteSpace(request.Text) || request.Text.Length > LongestText)
        {
            return new Refusal("text-missing", "text", "A version needs a text of at most 200,000 characters.");
        }

        return await WorkAsync(
            id,
            context,
            (session, row) =>
            {
                var last = row.Versions.MaxBy(v => v.Number);
                var begins = LocalDate.FromDateOnly(request.InForceFrom);
                if (last is { ApprovedAt: null })
                {
                    return Refusal.Conflict(
                        "version-waits",
                        null,
                        $"Version {Wording.Number(last.Number)} waits for approval; it is decided first."
                    );
                }

                if (begins < last?.InForceFrom)
                {
                    return new Refusal(
                        "begins-too-early",
                        "inForceFrom",
                        $"Version {Wording.Number(last.Number)} begins on {Wording.Day(last.InForceFrom)}; "
                            + "the next one begins then at the earliest."
                    );
                }

                var version = new PolicyVersionRow
                {
                    Number = (last?.Number ?? 0) + 1,
                    Text = request.Text.Trim(),
                    Change = request.Change.Trim(),
                    InForceFrom = begins,
                    AsksAnew = request.AsksAnew || last is null,
                    MadeAt = session.Now,
                    MadeById = context.Caller.PersonId,
                    MadeBy = context.Caller.Name,
                };
                version.Hash = ContentHash.Of(version.Text);
                row.Versions.Add(version);
                Record(session, row, version, "version-added");
                return null;
            }
        );
    }

    /// <summary>A file beside the text; only until somebody else approves.</summary>
    /// <param name="file">Its name.</param>
    private static async Task<Reply<Done>> AddFile(
        long id,
        int number,
        string file,
        HttpRequest request,
        WideKeelOptions options,
        ContentScanner scanner,
        [AsParameters] ApiContext context
    )
    {
        var taken = await StoredFiles.TakeAsync(request.Body, file, options, scanner, context.Cancel);
        if (taken.Refusal is { } refusal)
        {
            return refusal;
        }

        using var given = taken.Value;
        return await WaitingAsync(
            id,
            number,
            context,
            (session, row, version) =>
            {
                (version.FileName, version.FileHash) = (given.Name, given.Hash);
                version.Hash = ContentHash.Of($"{version.Text}\n{version.FileHash}");
                // Whoever changes what is to be approved is not the one who approves it.
                (version.MadeById, version.MadeBy) = (context.Caller.PersonId, context.Caller.Name);
                Record(session, row, version, "version-changed");
                given.Keep();
                return null;
            }
        );
    }

    /// <summary>
    /// A version that waits is taken back by who wrote it, or turned down by somebody else; the next one can be written
    /// then.
    /// </summary>
    private static Task<Reply<Done>> Refuse(
        long id,
        int number,
        VersionRefusal request,
        [AsParameters] ApiContext context
    ) =>
        WaitingAsync(
            id,
            number,
            context,
            (session, row, version) =>
            {
                if (Problems.CheckWhy(request.Why) is { } refusal)
                {
                    return refusal;
                }

                row.Versions.Remove(version);
                session.Db.PolicyVersions.Remove(version);
                Record(session, row, version, "version-refused", request.Why);
                return null;
            }
        );

    /// <summary>Works on a version that waits for approval; an approved one does not change any more.</summary>
    private static async Task<Reply<Done>> WaitingAsync(
        long id,
        int number,
        ApiContext context,
        Func<WriteSession, PolicyRow, PolicyVersionRow, Refusal?> work
    ) =>
        await WorkAsync(
            id,
            context,
            (session, row) =>
                row.Versions.Find(v => v.Number == number) is not { } version ? Problems.NotFound("version")
                : version.ApprovedAt is not null
                    ? Refusal.Conflict("approved", null, "An approved version does not change any more.")
                : work(session, row, version)
        );

    private static void Record(
        WriteSession session,
        PolicyRow row,
        PolicyVersionRow version,
        string act,
        string? why = null
    ) =>
        session.Record(
            act,
            PolicyAsking.Subject(row),
            after: new JsonObject
            {
                ["title"] = row.Title,
                ["version"] = version.Number,
                ["inForceFrom"] = NodaTime.Text.LocalDatePattern.Iso.Format(version.InForceFrom),
                ["sha256"] = version.Hash,
            },
            reason: why
        );

    private static async Task<IResult> FileOf(
        long id,
        int number,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    )
    {
        var version = await context
            .Db.PolicyVersions.AsNoTracking()
            .SingleOrDefaultAsync(v => v.PolicyId == id && v.Number == number, context.Cancel);
        return StoredFiles.Send(version?.FileHash ?? "", version?.FileName, options);
    }

    private static Task<Reply<Done>> Approve(long id, int number, [AsParameters] ApiContext context) =>
        WaitingAsync(
            id,
            number,
            context,
            (session, row, version) =>
            {
                if (context.Caller.NotSecondTo(version.MadeById, WroteIt) is { } not)
                {
                    return Refusal.Forbidden("second-person-needed", null, not);
                }

                (version.ApprovedBy, version.ApprovedAt) = (context.Caller.Name, session.Now);
                Record(session, row, version, "version-approved");
                return null;
            }
        );

    private static async Task<Reply<PolicyAskedOf>> Ask(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) => await AskAsync(id, directory, context, (asking, policy) => asking.AskAsync(policy, context.Cancel));

    private static async Task<Reply<PolicyAskedOf>> Remind(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) =>
        await AskAsync(
            id,
            directory,
            context,
            (asking, policy) => asking.RemindAsync(policy, all: true, context.Cancel)
        );

    private static async Task<Outcome<PolicyAskedOf>> AskAsync(
        long id,
        OrganisationDirectory directory,
        ApiContext context,
        Func<PolicyAsking, PolicyStanding, Task<int>> ask
    ) =>
        await context.Writer.RunAsync<PolicyAskedOf>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await PolicyBook.Whole(session.Db).SingleOrDefaultAsync(p => p.Id == id, context.Cancel)
                    is not { } row
                )
                {
                    return Problems.NotFound("policy");
                }

                var policy = PolicyBook.Of(row, directory.State, context.Calendar.Today);
                return policy.InForce is null
                    ? Refusal.Conflict("not-in-force", null, "No version is in force: nobody can be asked yet.")
                    : new PolicyAskedOf(await ask(new PolicyAsking(session, context.Calendar), policy));
            },
            context.Cancel
        );

    private static readonly string[] CsvNames =
    [
        "name",
        "mail",
        "unit",
        "state",
        "version",
        "asked on",
        "due on",
        "reminders",
        "opened at",
        "acknowledged at",
    ];

    private static async Task<IResult> Csv(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) =>
        await PolicyBook.Whole(context.Db).AsNoTracking().SingleOrDefaultAsync(p => p.Id == id, context.Cancel)
            is { } row
            ? await CsvAnswer.WriteAsync(
                context.Http,
                string.Create(CultureInfo.InvariantCulture, $"{row.Code}-acknowledgements.csv"),
                CsvNames,
                PolicyBook
                    .Of(row, directory.State, context.Calendar.Today)
                    .Readers.Select(r => View(r, row))
                    .Select(r =>
                        new object?[]
                        {
                            r.Name,
                            r.Mail,
                            r.Unit,
                            r.State,
                            r.Number,
                            r.AskedOn,
                            r.DueOn,
                            r.Reminders,
                            r.OpenedAt,
                            r.AcknowledgedAt,
                        }
                    )
                    .ToAsyncEnumerable(),
                context.Cancel
            )
            : (Reply<Done>)Problems.NotFound("policy");

    private static async Task<Outcome<Done>> WorkAsync(
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

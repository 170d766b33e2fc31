using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Change">What is different; empty for the first.</param>
/// <param name="AsksAnew">Those who acknowledged an earlier one are to acknowledge this one too.</param>
public sealed record NewPolicyVersion(string Text, string Change, DateOnly InForceFrom, bool AsksAnew = true);

/// <param name="Why">In a sentence; it stays in the ledger.</param>
public sealed record VersionRefusal(string Why);

/// <summary>Versions of policies: written, given a file, and approved by another person.</summary>
internal static class PolicyVersionEndpoints
{
    private const int LongestText = 200_000;

    internal const string WroteIt = "You wrote this version; another person must approve it.";

    public static void MapPolicyVersions(this IEndpointRouteBuilder api)
    {
        api.MapPost("/policies/{id:long}/versions", AddVersion).Requires(Right.ManageReadiness);
        api.MapPut("/policies/{id:long}/versions/{number:int}/file", AddFile)
            .Requires(Right.ManageReadiness)
            .TakesUpTo(StoredFiles.MostBytes + 1);
        api.MapGet("/policies/{id:long}/versions/{number:int}/file", FileOf).Requires(Right.ReadReadiness);
        api.MapPost("/policies/{id:long}/versions/{number:int}/approval", Approve).Requires(Right.ManageReadiness);
        api.MapPost("/policies/{id:long}/versions/{number:int}/refusal", Refuse).Requires(Right.ManageReadiness);
    }

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

        return await PolicyEndpoints.WorkAsync(
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
                // The author of a changed version does not approve it.
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
        await PolicyEndpoints.WorkAsync(
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
}

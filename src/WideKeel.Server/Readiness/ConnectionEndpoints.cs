using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Address">Where the program listens, such as http://127.0.0.1:5081.</param>
/// <param name="Secret">Key of the signature, at least 16 characters; null keeps the one there is.</param>
public sealed record ConnectionSettings(ConnectionKind Kind, string Name, string Address, string? Secret = null);

/// <param name="Hash">SHA-256 of its last answer.</param>
/// <param name="Failure">Why the last try failed; empty where it did not.</param>
public sealed record ConnectionView(
    long Id,
    ConnectionKind Kind,
    string Name,
    string Address,
    Instant? LastAt,
    string Hash,
    string Failure,
    int Records,
    long Revision
) : IRevised;

/// <param name="Late">Its day is past, and it is not done.</param>
public sealed record ConnectionRecordView(
    string Key,
    string Title,
    string Person,
    string Sort,
    string State,
    LocalDate? Opened,
    LocalDate? Due,
    LocalDate? Done,
    bool Late,
    string Facts
);

/// <param name="Total">How many there are, whether or not they are shown.</param>
public sealed record ConnectionRecordPage(int Total, IReadOnlyList<ConnectionRecordView> Records);

public sealed record ConnectionMade(long Id);

/// <summary>Programs outside that are asked for machines, training and tickets.</summary>
public static class ConnectionEndpoints
{
    private const int MostShown = 500;

    public static void MapConnections(this IEndpointRouteBuilder api)
    {
        api.MapGet("/connections", List).Requires(Right.ReadReadiness);
        api.MapPost("/connections", Make).Requires(Right.ManageReadiness);
        api.MapPost("/connections/trial", Try).Requires(Right.ManageReadiness);
        api.MapPut("/connections/{id:long}", Change).Requires(Right.ManageReadiness);
        api.MapDelete("/connections/{id:long}", Remove).Requires(Right.ManageReadiness);
        api.MapPost("/connections/{id:long}/reading", Read).Requires(Right.ManageReadiness);
        api.MapGet("/connections/{id:long}/records", Records).Requires(Right.ReadReadiness);
    }

    private static async Task<Reply<IReadOnlyList<ConnectionView>>> List([AsParameters] ApiContext context) =>
        await context
            .Db.Connections.AsNoTracking()
            .OrderBy(c => c.Name)
            .Select(c => new ConnectionView(
                c.Id,
                c.Kind,
                c.Name,
                c.Address,
                c.LastAt,
                c.Hash,
                c.Failure,
                c.Records.Count,
                c.Version
            ))
            .ToListAsync(context.Cancel);

    private static Refusal? Check(ConnectionSettings request) =>
        string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 100
            ? new("name-missing", "name", "A connection needs a name of at most 100 characters.")
        : !Uri.TryCreate(request.Address, UriKind.Absolute, out var address)
        || address.Scheme is not ("http" or "https")
        || address.Query.Length > 0
        || address.AbsolutePath != "/"
            ? new(
                "address-malformed",
                "address",
                "An address has a scheme, a host and a port, such as http://127.0.0.1:5081, and nothing else."
            )
        : request.Secret is { Length: < Signature.ShortestKey }
            ? new("key-too-short", "secret", $"A key has at least {Signature.ShortestKey} characters.")
        : null;

    private static Refusal? CheckNew(ConnectionSettings request) =>
        Check(request)
        ?? (request.Secret is null ? new("key-missing", "secret", "A connection needs the key of the program.") : null);

    /// <summary>Asks a program before anything is kept.</summary>
    private static async Task<Reply<ConnectionRecordPage>> Try(
        ConnectionSettings request,
        ConnectionReading reading,
        [AsParameters] ApiContext context
    )
    {
        if (CheckNew(request) is { } refusal)
        {
            return refusal;
        }

        var answer = await reading.AskAsync(request.Address, request.Secret!, context.Cancel);
        return answer.Refusal is { } failed
            ? failed
            : new ConnectionRecordPage(
                answer.Value.Records.Count,
                [.. answer.Value.Records.Take(20).Select(r => View(r, context.Calendar.Today))]
            );
    }

    private static ConnectionRecordView View(SentRecord r, LocalDate today) =>
        new(
            r.Key,
            r.Title,
            r.Person,
            r.Sort,
            r.State,
            r.Opened,
            r.Due,
            r.Done,
            ConnectionRecords.IsLate(r.Due, r.Done, today),
            r.Facts
        );

    private static async Task<Reply<ConnectionMade>> Make(
        ConnectionSettings request,
        StoredSecrets secrets,
        [AsParameters] ApiContext context
    ) =>
        CheckNew(request) is { } refusal
            ? refusal
            : await context.Writer.RunAsync<ConnectionMade>(
                context.Caller.Actor,
                async session =>
                {
                    var name = request.Name.Trim();
                    if (await session.Db.Connections.AnyAsync(c => c.Name == name, context.Cancel))
                    {
                        return Refusal.Conflict("name-taken", "name", $"There is a connection “{name}” already.");
                    }

                    var row = new ConnectionRow
                    {
                        Kind = request.Kind,
                        Name = name,
                        Address = request.Address,
                        Secret = secrets.Protect(request.Secret!),
                    };
                    session.Db.Connections.Add(row);
                    await session.Db.SaveChangesAsync(context.Cancel);
                    session.Record("connected", Subject(row), after: Facts(row));
                    return new ConnectionMade(row.Id);
                },
                context.Cancel
            );

    private static LedgerSubject Subject(ConnectionRow row) => LedgerSubject.Of("connection", row.Id);

    private static JsonObject Facts(ConnectionRow row) => new() { ["name"] = row.Name, ["address"] = row.Address };

    private static async Task<Reply<Done>> Change(
        long id,
        ConnectionSettings request,
        StoredSecrets secrets,
        [AsParameters] ApiContext context
    ) =>
        Check(request) is { } refusal
            ? refusal
            : await WorkAsync(
                id,
                context,
                async (session, row) =>
                {
                    var name = request.Name.Trim();
                    if (Problems.CheckMatch(context.Http, row.Version) is { } stale)
                    {
                        return stale;
                    }

                    if (request.Kind != row.Kind)
                    {
                        return new Refusal("kind-fixed", "kind", "What a program knows stays; connect another one.");
                    }

                    if (await session.Db.Connections.AnyAsync(c => c.Name == name && c.Id != id, context.Cancel))
                    {
                        return Refusal.Conflict("name-taken", "name", $"There is a connection “{name}” already.");
                    }

                    var before = Facts(row);
                    (row.Name, row.Address) = (name, request.Address);
                    row.Secret = request.Secret is null ? row.Secret : secrets.Protect(request.Secret);
                    row.Version++;
                    session.Record("changed", Subject(row), before, Facts(row));
                    return null;
                }
            );

    private static async Task<Reply<Done>> Remove(long id, [AsParameters] ApiContext context) =>
        await WorkAsync(
            id,
            context,
            (session, row) =>
            {
                session.Db.Connections.Remove(row);
                session.Record("disconnected", Subject(row), Facts(row));
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static async Task<Reply<Done>> Read(
        long id,
        ConnectionReading reading,
        [AsParameters] ApiContext context
    ) =>
        await context.Db.Connections.AsNoTracking().SingleOrDefaultAsync(c => c.Id == id, context.Cancel) is { } row
            ? await reading.ReadAsync(row, context.Writer, context.Caller.Actor, context.Cancel)
            : Problems.NotFound("connection");

    private static async Task<Reply<ConnectionRecordPage>> Records(
        long id,
        string? words,
        string? sort,
        [AsParameters] ApiContext context
    )
    {
        if (!await context.Db.Connections.AnyAsync(c => c.Id == id, context.Cancel))
        {
            return Problems.NotFound("connection");
        }

        var records = context
            .Db.ConnectionRecords.AsNoTracking()
            .Where(r => r.ConnectionId == id && (sort == null || sort == "" || r.Sort == sort));
        if (!string.IsNullOrWhiteSpace(words))
        {
            records = records.Where(r => r.Title.Contains(words) || r.Person.Contains(words) || r.Key.Contains(words));
        }

        var today = context.Calendar.Today;
        return new ConnectionRecordPage(
            await records.CountAsync(context.Cancel),
            [
                .. (
                    await records
                        // What is open, and its day nearest, comes first.
                        .OrderBy(r => r.Done != null)
                        .ThenBy(r => r.Due == null)
                        .ThenBy(r => r.Due)
                        .ThenBy(r => r.Key)
                        .Take(MostShown)
                        .ToListAsync(context.Cancel)
                ).Select(r =>
                    View(new(r.Key, r.Title, r.Person, r.Sort, r.State, r.Opened, r.Due, r.Done, r.Facts), today)
                ),
            ]
        );
    }

    private static async Task<Core.Outcome<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<Store.WriteSession, ConnectionRow, Task<Refusal?>> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
                await session.Db.Connections.SingleOrDefaultAsync(c => c.Id == id, context.Cancel) is not { } row
                    ? Problems.NotFound("connection")
                : await work(session, row) is { } refusal ? refusal
                : new Done(),
            context.Cancel
        );
}

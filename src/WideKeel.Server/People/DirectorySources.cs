using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <param name="CarriesOut">Whether it carries out what is decided here; the others are changed where they are kept.</param>
/// <param name="TokenPrefix">What the token of a program begins with; empty where none sends.</param>
/// <param name="CanFail">Failures can be simulated: the directory of the demo only.</param>
/// <param name="Ended">It is disconnected; what came from it stays until another source names it.</param>
public sealed record DirectorySourceView(
    long Id,
    DirectorySourceKind Kind,
    string Name,
    bool CarriesOut,
    string TokenPrefix,
    Instant? LastAt,
    bool Ended,
    int People,
    int Groups,
    int Places,
    bool CanFail
);

/// <param name="Changes">So many of the next changes fail, 0 to 20.</param>
public sealed record DirectoryFailures(int Changes);

/// <param name="Kind">files or scim.</param>
public sealed record NewDirectorySource(DirectorySourceKind Kind, string Name);

/// <param name="Address">Where a program sends to, for SCIM.</param>
/// <param name="Token">Shown once; only its SHA-256 is kept. Null for files.</param>
public sealed record DirectorySourceMade(long Id, string? Address, string? Token);

/// <summary>The sources of the directory.</summary>
public static class DirectorySources
{
    public static void MapDirectorySources(this IEndpointRouteBuilder api)
    {
        api.MapGet("/directory/sources", List).Requires(Right.ManagePeople);
        api.MapPost("/directory/sources", Make).Requires(Right.ManagePeople);
        api.MapPost("/directory/sources/{id:long}/token", Renew).Requires(Right.ManagePeople);
        api.MapPost("/directory/sources/{id:long}/end", End).Requires(Right.ManagePeople);
        api.MapPost("/directory/failures", Fail).Requires(Right.ManagePeople);
    }

    /// <summary>The source of files that is there without being made.</summary>
    public static async Task<DirectorySource> FilesAsync(WriteSession session, CancellationToken cancel)
    {
        var source = await session.Db.DirectorySources.FirstOrDefaultAsync(
            s => s.Kind == DirectorySourceKind.Files && s.EndedAt == null,
            cancel
        );
        if (source is null)
        {
            var name = "Files";
            for (var n = 2; await session.Db.DirectorySources.AnyAsync(s => s.Name == name, cancel); n++)
            {
                name = string.Create(CultureInfo.InvariantCulture, $"Files {n}");
            }

            source = new()
            {
                Kind = DirectorySourceKind.Files,
                Name = name,
                MadeAt = session.Now,
            };
            session.Db.DirectorySources.Add(source);
            await session.Db.SaveChangesAsync(cancel);
        }

        return source;
    }

    private static async Task<Reply<IReadOnlyList<DirectorySourceView>>> List(WideKeelDb db, CancellationToken cancel)
    {
        var people = await CountAsync(db.DirectoryPeople.Where(p => p.RemovedAt == null).Select(p => p.SourceId));
        var groups = await CountAsync(db.DirectoryGroups.Where(g => g.RemovedAt == null).Select(g => g.SourceId));
        var places = await CountAsync(db.DirectoryPlaces.Select(p => p.SourceId));
        var isDemo = await db.Organisations.AnyAsync(o => o.Demo, cancel);
        var sources = await db.DirectorySources.AsNoTracking().OrderBy(s => s.Id).ToListAsync(cancel);
        return (Outcome<IReadOnlyList<DirectorySourceView>>)
            sources
                .Select(s => new DirectorySourceView(
                    s.Id,
                    s.Kind,
                    s.Name,
                    s.Kind == DirectorySourceKind.StandIn,
                    s.TokenPrefix,
                    s.LastAt,
                    s.EndedAt is not null,
                    people.GetValueOrDefault(s.Id),
                    groups.GetValueOrDefault(s.Id),
                    places.GetValueOrDefault(s.Id),
                    isDemo && s.Kind == DirectorySourceKind.StandIn
                ))
                .ToList();

        Task<Dictionary<long, int>> CountAsync(IQueryable<long> ids) =>
            ids.GroupBy(i => i)
                .Select(g => new { g.Key, Count = g.Count() })
                .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
    }

    private static async Task<Reply<DirectorySourceMade>> Make(
        NewDirectorySource request,
        [AsParameters] ApiContext context
    )
    {
        var name = request.Name.Trim();
        if (name.Length is 0 or > 100)
        {
            return new Refusal("name-missing", "name", "A source needs a name of at most 100 characters.");
        }

        if (request.Kind == DirectorySourceKind.StandIn)
        {
            return new Refusal("kind-made", "kind", "The simulated directory comes with the demo; it cannot be added.");
        }

        if (NotByKey(context.Caller) is { } refusal)
        {
            return refusal;
        }

        return await context.Writer.RunAsync<DirectorySourceMade>(
            context.Caller.Actor,
            async session =>
            {
                if (await session.Db.DirectorySources.AnyAsync(s => s.Name == name, context.Cancel))
                {
                    return Refusal.Conflict("name-taken", "name", $"There is a source “{name}” already.");
                }

                var source = new DirectorySource
                {
                    Kind = request.Kind,
                    Name = name,
                    MadeAt = session.Now,
                };
                var token = request.Kind == DirectorySourceKind.Scim ? Give(source) : null;
                session.Db.DirectorySources.Add(source);
                await session.Db.SaveChangesAsync(context.Cancel);
                Note(session, source, "directory-source-made");
                return new DirectorySourceMade(
                    source.Id,
                    token is null ? null : await ScimAddressAsync(session.Db, context.Http.Request, context.Cancel),
                    token
                );
            },
            context.Cancel
        );
    }

    private static async Task<Reply<DirectorySourceMade>> Renew(long id, [AsParameters] ApiContext context)
    {
        if (NotByKey(context.Caller) is { } refusal)
        {
            return refusal;
        }

        return await context.Writer.RunAsync<DirectorySourceMade>(
            context.Caller.Actor,
            async session =>
            {
                var source = await session.Db.DirectorySources.SingleOrDefaultAsync(
                    s => s.Id == id && s.Kind == DirectorySourceKind.Scim && s.EndedAt == null,
                    context.Cancel
                );
                if (source is null)
                {
                    return Problems.NotFound("source");
                }

                var token = Give(source);
                Note(session, source, "directory-source-token");
                return new DirectorySourceMade(
                    source.Id,
                    await ScimAddressAsync(session.Db, context.Http.Request, context.Cancel),
                    token
                );
            },
            context.Cancel
        );
    }

    /// <summary>Lets the next changes of the simulated directory fail, in the demo alone.</summary>
    private static async Task<Reply<Done>> Fail(
        DirectoryFailures request,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    )
    {
        if (request.Changes is < 0 or > 20)
        {
            return new Refusal("failures-malformed", "changes", "Choose 0 to 20 changes.");
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (!await session.Db.Organisations.AnyAsync(o => o.Demo, context.Cancel))
                {
                    return Refusal.Conflict("demo-only", null, "Failures can be simulated in the demo only.");
                }

                directory.Outside.FailNext(request.Changes);
                session.Record(
                    "failures-simulated",
                    new LedgerSubject("directory", "stand-in"),
                    after: new JsonObject { ["changes"] = request.Changes }
                );
                return new Done();
            },
            context.Cancel
        );
    }

    private static async Task<Reply<Done>> End(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var source = await session.Db.DirectorySources.SingleOrDefaultAsync(
                    s => s.Id == id && s.EndedAt == null,
                    context.Cancel
                );
                if (source is null)
                {
                    return Problems.NotFound("source");
                }

                if (source.Kind == DirectorySourceKind.StandIn)
                {
                    return Refusal.Conflict(
                        "stand-in",
                        null,
                        "The simulated directory stays as long as its file does."
                    );
                }

                (source.EndedAt, source.TokenHash, source.TokenPrefix) = (session.Now, "", "");
                Note(session, source, "directory-source-ended");
                return new Done();
            },
            context.Cancel
        );

    /// <summary>A key that made another would outlive its own revocation.</summary>
    private static Refusal? NotByKey(Caller caller) =>
        caller.ByKey
            ? Refusal.Forbidden("key-by-key", null, "A key is not enough for this; its person signs in.")
            : null;

    private static string Give(DirectorySource source)
    {
        var token = ApiKeyAuthentication.NewDirectoryToken();
        (source.TokenHash, source.TokenPrefix) = (ApiKeyAuthentication.HashOf(token), token[..9]);
        return token;
    }

    private static void Note(WriteSession session, DirectorySource source, string verb) =>
        session.Record(
            verb,
            new LedgerSubject("directory", source.Id.ToString(CultureInfo.InvariantCulture)),
            after: new JsonObject { ["source"] = source.Name, ["token"] = source.TokenPrefix }
        );

    /// <summary>Where programs of a directory send to: the organisation's own address, or that of the request.</summary>
    public static async Task<string> ScimAddressAsync(WideKeelDb db, HttpRequest request, CancellationToken cancel)
    {
        var own = await db.Organisations.Select(o => o.Address).SingleOrDefaultAsync(cancel);
        return $"{(string.IsNullOrEmpty(own) ? $"{request.Scheme}://{request.Host}" : own.TrimEnd('/'))}{Scim.Root}";
    }
}

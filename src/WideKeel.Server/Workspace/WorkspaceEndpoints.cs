using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Server.Content;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;
using WideKeel.Store.Workspace;

namespace WideKeel.Server.Workspace;

/// <param name="IsChannel">Its files are posts, one below the other.</param>
public sealed record LibraryView(
    long Id,
    string Name,
    string Workspace,
    string Unit,
    bool IsChannel,
    long Files,
    SeriesRef? Default
);

/// <param name="Folder">Beneath the library; empty for itself.</param>
/// <param name="Default">The series under which new files of this folder are filed.</param>
public sealed record FolderView(
    LibraryView Library,
    string Folder,
    IReadOnlyList<string> Folders,
    IReadOnlyList<WorkspaceRow> Files,
    SeriesRef? Default,
    bool MayWork
);

public sealed record WorkspaceRow(
    long Id,
    string Name,
    string Title,
    string Type,
    long Bytes,
    string? By,
    Instant At,
    ItemState State,
    Grade Grade,
    SeriesRef? Series,
    string? Post
);

/// <summary>Whether a person may do something with a file, and what happens then or why not.</summary>
public sealed record OperationView(Operation Operation, bool Allowed, string? Sentence);

public sealed record VersionView(int Number, string Hash, long Bytes, string By, Instant At, bool IsNow);

/// <param name="Text">Null where it is not a text that can be edited here.</param>
/// <param name="Follows">The file of which this is a newer version; <c>Next</c> the newer version of this one.</param>
public sealed record WorkspaceFileView(
    long Id,
    long LibraryId,
    string Library,
    string Folder,
    string Name,
    string Type,
    long Bytes,
    string? By,
    Instant At,
    string? Text,
    IReadOnlyDictionary<string, string> Fields,
    IReadOnlyList<VersionView> Versions,
    IReadOnlyList<OperationView> Operations,
    ItemState State,
    Grade Grade,
    SeriesRef? Series,
    string Standing,
    ItemRefView? Follows,
    ItemRefView? Next,
    bool MayWork,
    long Revision
) : IRevised;

public sealed record ItemRefView(long Id, string Name);

/// <param name="Text">The content as text; or <paramref name="Content"/> in base64.</param>
public sealed record NewFile(string Folder, string Name, string? Text = null, string? Content = null);

public sealed record NewFolder(string Folder);

public sealed record FileText(string Text);

public sealed record FileName(string Name);

/// <param name="LibraryId">Of any workspace that the caller may work in.</param>
public sealed record FilePlace(long LibraryId, string Folder);

/// <summary>Field by field: a date as <c>2026-03-14</c>, or any text; null or empty takes it away.</summary>
public sealed record FieldValues(IReadOnlyDictionary<string, string?> Fields);

public sealed record NewPost(string Text);

/// <summary>
/// The workspace as staff see it. Each operation asks the grade table first; it is then done, done with the former
/// state kept in safekeeping, or refused in one sentence that the ledger keeps too.
/// </summary>
public static class WorkspaceEndpoints
{
    private const int MostText = 1_000_000;
    private const int MostFields = 50;
    private static readonly HashSet<string> TextTypes = ["txt", "md", "csv", "html", "htm", "log", "json", "xml"];

    public static void MapWorkspace(this IEndpointRouteBuilder api)
    {
        api.MapGet("/workspace/libraries", Libraries).Requires(Right.ReadContent);
        api.MapGet("/workspace/libraries/{id:long}/folder", Folder).Requires(Right.ReadContent);
        api.MapPost("/workspace/libraries/{id:long}/folders", MakeFolder).Requires(Right.WorkContent);
        api.MapDelete("/workspace/libraries/{id:long}/folders", RemoveFolder).Requires(Right.WorkContent);
        api.MapPost("/workspace/libraries/{id:long}/files", Add).Requires(Right.WorkContent);
        api.MapPost("/workspace/libraries/{id:long}/posts", Post).Requires(Right.WorkContent);
        api.MapGet("/workspace/files/{id:long}", Show).Requires(Right.ReadContent);
        api.MapGet("/workspace/files/{id:long}/content", Download).Requires(Right.ReadContent);
        api.MapPut("/workspace/files/{id:long}/text", Edit).Requires(Right.WorkContent);
        api.MapPut("/workspace/files/{id:long}/fields", EditFields).Requires(Right.WorkContent);
        api.MapPost("/workspace/files/{id:long}/name", Rename).Requires(Right.WorkContent);
        api.MapPost("/workspace/files/{id:long}/place", Move).Requires(Right.WorkContent);
        api.MapPost("/workspace/files/{id:long}/successor", Succeed).Requires(Right.WorkContent);
        api.MapPost("/workspace/files/{id:long}/versions/{number:int}/restoration", Restore)
            .Requires(Right.WorkContent);
        api.MapDelete("/workspace/files/{id:long}", Delete).Requires(Right.WorkContent);
    }

    private static async Task<Reply<IReadOnlyList<LibraryView>>> Libraries(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        (Outcome<IReadOnlyList<LibraryView>>)
            (await LibrariesAsync(caller, db, null, cancel)).Select(l => l.View).ToList();

    private static async Task<List<(LibraryView View, Container Container, Source Source)>> LibrariesAsync(
        Caller caller,
        WideKeelDb db,
        long? only,
        CancellationToken cancel
    )
    {
        var rows = await (
            from c in db.Containers.AsNoTracking()
            join s in db.Sources on c.SourceId equals s.Id
            join u in db.Units on c.UnitId equals u.Id
            where s.Kind == SourceKind.Workspace && s.Connected && (only == null || c.Id == only)
            orderby c.Name
            select new
            {
                Container = c,
                Source = s,
                Unit = u.Name,
                Files = db.Items.LongCount(i =>
                    i.ContainerId == c.Id && i.DestroyedAt == null && i.MissingSince == null
                ),
            }
        ).ToListAsync(cancel);
        var visible = rows.Where(r => r.Container.Name != "." && caller.May(Right.ReadContent, r.Container.UnitId))
            .ToList();
        var ids = visible.Select(v => v.Container.Id).ToList();
        var defaults = await db
            .FilingDefaults.AsNoTracking()
            .Include(d => d.Series)
            .Where(d => ids.Contains(d.ContainerId) && d.Folder == "")
            .ToDictionaryAsync(
                d => d.ContainerId,
                d => new SeriesRef(d.SeriesId, d.Series!.Code, d.Series.Title),
                cancel
            );
        return
        [
            .. visible.Select(r =>
                (
                    new LibraryView(
                        r.Container.Id,
                        r.Container.Name,
                        r.Source.Name,
                        r.Unit,
                        IsChannel(r.Container.Name),
                        r.Files,
                        defaults.GetValueOrDefault(r.Container.Id)
                    ),
                    r.Container,
                    r.Source
                )
            ),
        ];
    }

    private static bool IsChannel(string library) => library.StartsWith('#');

    /// <summary>What new files of a folder are filed by: its own default, or the nearest above it.</summary>
    private static async Task<SeriesRef?> DefaultOfAsync(long library, string folder, ApiContext context)
    {
        var defaults = await context
            .Db.FilingDefaults.AsNoTracking()
            .Include(d => d.Series)
            .Where(d => d.ContainerId == library)
            .ToListAsync(context.Cancel);
        return defaults
            .Where(d =>
                d.Folder.Length == 0
                || folder == d.Folder
                || folder.StartsWith(d.Folder + "/", StringComparison.Ordinal)
            )
            .OrderByDescending(d => d.Folder.Length)
            .Select(d => new SeriesRef(d.SeriesId, d.Series!.Code, d.Series.Title))
            .FirstOrDefault();
    }

    private static async Task<Reply<FolderView>> Folder(long id, string? folder, [AsParameters] ApiContext context)
    {
        if ((await LibrariesAsync(context.Caller, context.Db, id, context.Cancel)) is not [var library])
        {
            return Problems.NotFound("library");
        }

        var within = (folder ?? "").Trim('/');
        if (WorkspaceFolder.CheckFolder(within, "folder") is { } wrong)
        {
            return wrong;
        }

        var path = PathOf(library.Container.Name, within, null);
        var prefix = path + "/";
        var items = await context
            .Db.Items.AsNoTracking()
            .Where(i =>
                i.ContainerId == id && i.DestroyedAt == null && i.MissingSince == null && i.Path.StartsWith(prefix)
            )
            .ToListAsync(context.Cancel);
        items = [.. items.Where(i => !i.Path[prefix.Length..].Contains('/', StringComparison.Ordinal))];
        var ids = items.Select(i => i.Id).ToList();
        var rows = await ItemEndpoints.RowsAsync(ids, context.Db, context.Calendar);
        var files = await context
            .Db.WorkspaceFiles.AsNoTracking()
            .Where(f => ids.Contains(f.ItemId))
            .ToDictionaryAsync(f => f.ItemId, context.Cancel);
        var posts = library.View.IsChannel
            ? await context
                .Db.ItemTexts.AsNoTracking()
                .Where(t => ids.Contains(t.ItemId))
                .ToDictionaryAsync(t => t.ItemId, t => t.Text, context.Cancel)
            : [];
        var finds = library.View.IsChannel ? await KindSet.ScanAsync(context.Db) : null;
        return new FolderView(
            library.View,
            within,
            new WorkspaceFolder(library.Source.Root).FoldersIn(path),
            [
                .. items
                    .Select(i => new WorkspaceRow(
                        i.Id,
                        Path.GetFileName(i.Path),
                        i.Title,
                        i.Type,
                        i.Bytes,
                        files.GetValueOrDefault(i.Id)?.By ?? i.Author,
                        files.GetValueOrDefault(i.Id)?.At ?? Instant.FromUnixTimeTicks(i.ModifiedTicks),
                        rows[i.Id].State,
                        GradeOf(i, rows[i.Id].State == ItemState.Held, context.Calendar.Today),
                        rows[i.Id].Series,
                        posts.TryGetValue(i.Id, out var text) ? FoundText.Mask(text, finds!.FindIn(text)) : null
                    ))
                    .OrderBy(r => r.Name, StringComparer.OrdinalIgnoreCase),
            ],
            await DefaultOfAsync(id, within, context),
            context.Caller.May(Right.WorkContent, library.Container.UnitId)
        );
    }

    /// <summary>The grade that applies today, from the columns that hold the item's standing.</summary>
    private static Grade GradeOf(Item item, bool held, LocalDate today)
    {
        var grade = new Standing(
            ItemState.InTerm,
            KeepUntil.FromCode(item.KeepUntil),
            item.DisposableFrom,
            item.AtEnd,
            item.OwnGrade,
            KeepUntil.FromCode(item.OwnGradeUntil)
        ).GradeOn(today);
        return held && grade == Grade.None ? Grade.Kept : grade;
    }

    private static async Task<Reply<WorkspaceFileView>> Show(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var found = await FindAsync(id, caller, db, Right.ReadContent, cancel);
        return found is null
            ? Problems.NotFound("file")
            : (Outcome<WorkspaceFileView>)await ViewAsync(found, caller, db, calendar, cancel);
    }

    /// <summary>
    /// What can be edited here. Whoever works in the file must see what it says; a reader sees no more of it than in a
    /// preview.
    /// </summary>
    private static async Task<string?> TextOfAsync(Place place, Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        if (!TextTypes.Contains(place.Item.Type) || place.Item.Bytes > MostText)
        {
            return null;
        }

        await using var content = place.Workspace.Open(place.Item.Path);
        var text = content is null ? null : await new StreamReader(content).ReadToEndAsync(cancel);
        return text is null || caller.May(Right.WorkContent, place.Container.UnitId)
            ? text
            : FoundText.Mask(text, (await KindSet.ScanAsync(db)).FindIn(text));
    }

    private static async Task<WorkspaceFileView> ViewAsync(
        Place place,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var item = place.Item;
        var file = await db.WorkspaceFiles.AsNoTracking().SingleOrDefaultAsync(f => f.ItemId == item.Id, cancel);
        var row = (await ItemEndpoints.RowsAsync([item.Id], db, calendar))[item.Id];
        var held = row.State == ItemState.Held;
        var grade = GradeOf(item, held, calendar.Today);
        var text = await TextOfAsync(place, caller, db, cancel);
        var fields = await FieldsOfAsync(db, item.Id, cancel);
        var versions = await db
            .WorkspaceVersions.AsNoTracking()
            .Where(v => v.ItemId == item.Id)
            .OrderByDescending(v => v.Number)
            .ToListAsync(cancel);
        var before = file?.FollowsId is { } former
            ? await db.Items.AsNoTracking().SingleOrDefaultAsync(i => i.Id == former, cancel)
            : null;
        var next = await db
            .WorkspaceFiles.AsNoTracking()
            .Where(f => f.FollowsId == item.Id)
            .Select(f => f.Item)
            .FirstOrDefaultAsync(cancel);
        var name = Path.GetFileName(item.Path);
        var within = item.Path[(place.Container.Name.Length + 1)..];
        return new(
            item.Id,
            place.Container.Id,
            place.Container.Name,
            within.Length > name.Length ? within[..^(name.Length + 1)] : "",
            name,
            item.Type,
            item.Bytes,
            file?.By ?? item.Author,
            file?.At ?? Instant.FromUnixTimeTicks(item.ModifiedTicks),
            text,
            fields,
            [.. versions.Select(v => new VersionView(v.Number, v.Hash, v.Bytes, v.By, v.At, v == versions[0]))],
            [
                .. Enum.GetValues<Operation>()
                    .Where(o => o is not (Operation.TakeOff or Operation.Shorten))
                    .Select(o =>
                        GradeTable.Decide(grade, held, o) is var d ? new OperationView(o, d.Allowed, d.Sentence) : null!
                    ),
            ],
            row.State,
            grade,
            row.Series,
            await ItemEndpoints.StandingAsync(item.Id, caller, db, calendar),
            before is null ? null : new(before.Id, Path.GetFileName(before.Path)),
            next is null ? null : new(next.Id, Path.GetFileName(next.Path)),
            caller.May(Right.WorkContent, place.Container.UnitId),
            file?.Revision ?? 1
        );
    }

    private static async Task<IResult> Download(long id, Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        if (await FindAsync(id, caller, db, Right.ReadContent, cancel) is not { } found)
        {
            return (Reply<Done>)Problems.NotFound("file");
        }

        if (!caller.May(Right.WorkContent, found.Container.UnitId) && await HidesAsync(found.Item, db, cancel))
        {
            return (Reply<Done>)
                Refusal.Forbidden(
                    "masked",
                    null,
                    "It holds sensitive data that is masked from you, so it is not handed out as it is. Its preview shows the rest."
                );
        }

        return found.Workspace.Open(found.Item.Path) is { } content
            ? Results.File(content, "application/octet-stream", Path.GetFileName(found.Item.Path))
            : (Reply<Done>)Problems.NotFound("file");
    }

    /// <summary>Whether a preview of it would mask anything.</summary>
    private static async Task<bool> HidesAsync(Item item, WideKeelDb db, CancellationToken cancel)
    {
        var text = await db
            .ItemTexts.AsNoTracking()
            .Where(t => t.ItemId == item.Id)
            .Select(t => t.Text)
            .SingleOrDefaultAsync(cancel);
        return text is not null && (await KindSet.ScanAsync(db)).FindIn(text).Any(f => f.IsHidden);
    }

    private static async Task<Reply<Done>> MakeFolder(
        long id,
        NewFolder request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await InLibraryAsync(
            id,
            request.Folder,
            caller,
            writer,
            (session, library, path) =>
            {
                if (library.Workspace.Has(path))
                {
                    return Refusal.Conflict("name-taken", "folder", "Something of this name is there already.");
                }

                library.Workspace.MakeFolder(path);
                session.Record(
                    "folder-made",
                    Subject(library.Container, caller),
                    after: new JsonObject { ["path"] = path }
                );
                return null;
            },
            cancel
        );

    private static async Task<Reply<Done>> RemoveFolder(
        long id,
        string folder,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await InLibraryAsync(
            id,
            folder,
            caller,
            writer,
            (session, library, path) =>
            {
                if (!library.Workspace.Has(path))
                {
                    return Problems.NotFound("folder");
                }

                if (!library.Workspace.RemoveFolder(path))
                {
                    return Refusal.Conflict(
                        "folder-not-empty",
                        "folder",
                        "Something lies in this folder; only an empty one can be removed."
                    );
                }

                session.Record(
                    "folder-removed",
                    Subject(library.Container, caller),
                    new JsonObject { ["path"] = path }
                );
                return null;
            },
            cancel
        );

    private static async Task<Reply<Done>> InLibraryAsync(
        long id,
        string? folder,
        Caller caller,
        Writer writer,
        Func<WriteSession, (Container Container, WorkspaceFolder Workspace), string, Refusal?> act,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                if (await LibraryAsync(id, caller, session.Db, cancel) is not { } library)
                {
                    return Problems.NotFound("library");
                }

                var within = (folder ?? "").Trim('/');
                return within.Length == 0 ? new Refusal("name-malformed", "folder", "Name the folder.")
                    : WorkspaceFolder.CheckFolder(within, "folder") is { } wrong ? wrong
                    : act(session, library, PathOf(library.Container.Name, within, null)) is { } refused ? refused
                    : new Done();
            },
            cancel
        );

    private static async Task<Reply<WorkspaceFileView>> Add(long id, NewFile request, [AsParameters] ApiContext context)
    {
        if (request.Text is null == request.Content is null)
        {
            return new Refusal("content-missing", "text", "A file has a text, or a content in base64; one of the two.");
        }

        byte[] bytes;
        try
        {
            bytes = request.Text is { } text
                ? Encoding.UTF8.GetBytes(text)
                : Convert.FromBase64String(request.Content!);
        }
        catch (FormatException)
        {
            return new Refusal("content-malformed", "content", "The content is not base64.");
        }

        var content = await NewContent.OfAsync(bytes, request.Name, context.Cancel);
        return await MadeAsync(
            await context.Writer.RunAsync<long>(
                context.Caller.Actor,
                session => AddAsync(session, id, request.Folder, request.Name, content, null, context),
                context.Cancel
            ),
            context
        );
    }

    private static async Task<Reply<WorkspaceFileView>> Post(
        long id,
        NewPost request,
        IClock clock,
        [AsParameters] ApiContext context
    )
    {
        if (string.IsNullOrWhiteSpace(request.Text) || request.Text.Length > 20_000)
        {
            return new Refusal("text-missing", "text", "A post has 1 to 20,000 characters.");
        }

        var content = await NewContent.OfAsync(
            Encoding.UTF8.GetBytes($"---\nauthor: {context.Caller.Name}\n---\n{request.Text.Trim()}\n"),
            "post.md",
            context.Cancel
        );
        var moment = clock.GetCurrentInstant().ToString("uuuu-MM-dd HHmmss", CultureInfo.InvariantCulture);
        return await MadeAsync(
            await context.Writer.RunAsync<long>(
                context.Caller.Actor,
                async session =>
                {
                    if (
                        await LibraryAsync(id, context.Caller, session.Db, context.Cancel) is not { } library
                        || !IsChannel(library.Container.Name)
                    )
                    {
                        return Problems.NotFound("channel");
                    }

                    var name = $"{moment} {context.Caller.Name}.md";
                    for (var i = 2; library.Workspace.Has(PathOf(library.Container.Name, "", name)); i++)
                    {
                        name = $"{moment} {context.Caller.Name} {i.ToString(CultureInfo.InvariantCulture)}.md";
                    }

                    return await AddAsync(session, id, "", name, content, null, context);
                },
                context.Cancel
            ),
            context
        );
    }

    /// <summary>A new version of a file whose own content may not change: a file beside it, linked to it.</summary>
    private static async Task<Reply<WorkspaceFileView>> Succeed(
        long id,
        FileText request,
        [AsParameters] ApiContext context
    )
    {
        if (await FindAsync(id, context.Caller, context.Db, Right.WorkContent, context.Cancel) is not { } seen)
        {
            return Problems.NotFound("file");
        }

        var content = await NewContent.OfAsync(Encoding.UTF8.GetBytes(request.Text), seen.Item.Path, context.Cancel);
        return await MadeAsync(
            await context.Writer.RunAsync<long>(
                context.Caller.Actor,
                async session =>
                {
                    if (
                        await FindAsync(id, context.Caller, session.Db, Right.WorkContent, context.Cancel)
                        is not { } place
                    )
                    {
                        return Problems.NotFound("file");
                    }

                    if (await session.Db.WorkspaceFiles.AnyAsync(f => f.FollowsId == id, context.Cancel))
                    {
                        return Refusal.Conflict(
                            "already-followed",
                            null,
                            "A newer version of this file exists already; go on from that one."
                        );
                    }

                    var (name, type) = (
                        Path.GetFileNameWithoutExtension(place.Item.Path),
                        Path.GetExtension(place.Item.Path)
                    );
                    var folder = Path.GetDirectoryName(place.Item.Path)!
                        .Replace('\\', '/')[place.Container.Name.Length..]
                        .Trim('/');
                    var next = Enumerable
                        .Range(2, 1_000)
                        .Select(n => string.Create(CultureInfo.InvariantCulture, $"{name} v{n}{type}"))
                        .First(n => !place.Workspace.Has(PathOf(place.Container.Name, folder, n)));
                    return await AddAsync(session, place.Container.Id, folder, next, content, id, context);
                },
                context.Cancel
            ),
            context
        );
    }

    private static async Task<Reply<WorkspaceFileView>> MadeAsync(Outcome<long> made, ApiContext context) =>
        made.Refused
            ? made.Refusal!
            : await Show(made.Value, context.Caller, context.Db, context.Calendar, context.Cancel);

    private static void NoteNew(WriteSession session, Item item, long? follows, LedgerSubject subject, string by)
    {
        session.Db.WorkspaceFiles.Add(
            new()
            {
                ItemId = item.Id,
                By = by,
                At = session.Now,
                FollowsId = follows,
            }
        );
        session.Db.WorkspaceVersions.Add(VersionOf(item, 1, by, session.Now));
        session.Record(
            "file-added",
            subject,
            after: new JsonObject
            {
                ["path"] = item.Path,
                ["hash"] = item.Hash,
                ["bytes"] = item.Bytes,
                ["follows"] = follows,
            }
        );
    }

    private static async Task<Outcome<long>> AddAsync(
        WriteSession session,
        long libraryId,
        string? folder,
        string? name,
        NewContent content,
        long? follows,
        ApiContext context
    )
    {
        var (caller, cancel) = (context.Caller, context.Cancel);
        if (await LibraryAsync(libraryId, caller, session.Db, cancel) is not { } library)
        {
            return Problems.NotFound("library");
        }

        var within = (folder ?? "").Trim('/');
        if ((WorkspaceFolder.CheckFolder(within, "folder") ?? WorkspaceFolder.CheckName(name, "name")) is { } wrong)
        {
            return wrong;
        }

        var path = PathOf(library.Container.Name, within, name);
        if (library.Workspace.Has(path))
        {
            return Refusal.Conflict("name-taken", "name", $"There is a “{name}” here already.");
        }

        await library.Workspace.WriteAsync(path, new MemoryStream(content.Bytes), cancel);
        var item = new Item
        {
            ContainerId = library.Container.Id,
            Path = path,
            Title = "",
            Type = "",
            Hash = "",
        };
        await FillAsync(session, item, library.Workspace, content.Text, context.Calendar, null, cancel);
        NoteNew(session, item, follows, Subject(item, library.Container, caller), caller.Name);
        await ItemIntake.SettleAsync(session, [item], context.Calendar, cancel);
        return item.Id;
    }

    private static WorkspaceVersion VersionOf(Item item, int number, string by, Instant at) =>
        new()
        {
            ItemId = item.Id,
            Number = number,
            Hash = item.Hash,
            Bytes = item.Bytes,
            By = by,
            At = at,
        };

    /// <summary>
    /// A content with what was drawn from it. It is drawn before the writer is taken: a document may need its time, and
    /// everybody's changes would wait for it.
    /// </summary>
    private sealed record NewContent(byte[] Bytes, Extracted Text)
    {
        public static async Task<NewContent> OfAsync(byte[] bytes, string? name, CancellationToken cancel) =>
            new(
                bytes,
                await TextExtraction.ExtractAsync(new MemoryStream(bytes), ItemIntake.TypeOf(name ?? ""), cancel)
            );
    }

    /// <summary>Writes into an item what its file, just written, holds: as a scan would.</summary>
    /// <param name="fields">That the item had: they stay, but for those that the document itself speaks of; null for a new
    /// item.</param>
    private static async Task FillAsync(
        WriteSession session,
        Item item,
        WorkspaceFolder workspace,
        Extracted text,
        OrganisationCalendar calendar,
        Dictionary<string, string>? fields,
        CancellationToken cancel
    )
    {
        var isNew = fields is null;
        var (created, subject) = (item.Created, item.Subject);
        ItemIntake.Fill(
            item,
            workspace.Describe(item.Path),
            (await workspace.HashAsync(item.Path, cancel))!,
            text,
            calendar
        );
        if (isNew)
        {
            session.Db.Items.Add(item);
            await session.Db.SaveChangesAsync(cancel);
        }
        else
        {
            // An edit makes nothing younger.
            item.Created = text.Created ?? created;
            item.Subject = text.Subject ?? subject;
        }

        if (fields is not null)
        {
            var others = fields
                .Where(f => !text.Dates.ContainsKey(f.Key) && !text.Fields.ContainsKey(f.Key))
                .ToDictionary();
            text = text with
            {
                Dates = new Dictionary<string, LocalDate>(text.Dates.Concat(DatesOf(others))),
                Fields = new Dictionary<string, string>(text.Fields.Concat(TextsOf(others))),
            };
        }

        await ItemIntake.WriteTextsAsync(
            session,
            [(item, Reading.Of(text, await KindSet.ScanAsync(session.Db)))],
            isNew,
            cancel
        );
    }

    private static IEnumerable<KeyValuePair<string, LocalDate>> DatesOf(Dictionary<string, string> fields) =>
        from f in fields
        let date = f.Value.Length == 10 ? QueryValues.Date(f.Value) : null
        where date is not null
        select KeyValuePair.Create(f.Key, date.Value);

    private static IEnumerable<KeyValuePair<string, string>> TextsOf(Dictionary<string, string> fields) =>
        fields.Where(f => f.Value.Length != 10 || QueryValues.Date(f.Value) is null);

    private static async Task<Reply<WorkspaceFileView>> Edit(
        long id,
        FileText request,
        Safekeeping safekeeping,
        SafekeepingGate gate,
        [AsParameters] ApiContext context
    )
    {
        if (await FindAsync(id, context.Caller, context.Db, Right.WorkContent, context.Cancel) is not { } seen)
        {
            return Problems.NotFound("file");
        }

        var content = await NewContent.OfAsync(Encoding.UTF8.GetBytes(request.Text), seen.Item.Path, context.Cancel);
        return await ChangeAsync(
            id,
            Operation.EditContent,
            context,
            safekeeping,
            gate,
            async (session, place) =>
                !TextTypes.Contains(place.Item.Type) ? new Refusal("not-a-text", null, "Only texts can be edited here.")
                : request.Text.Length > MostText
                    ? new Refusal(
                        "text-too-long",
                        "text",
                        $"A text has at most {MostText.ToString("N0", CultureInfo.InvariantCulture)} characters."
                    )
                : await ReplaceAsync(
                    session,
                    place,
                    content,
                    "edited",
                    context.Caller,
                    context.Calendar,
                    safekeeping,
                    context.Cancel
                )
        );
    }

    private static async Task<Reply<WorkspaceFileView>> Restore(
        long id,
        int number,
        Safekeeping safekeeping,
        SafekeepingGate gate,
        [AsParameters] ApiContext context
    )
    {
        var seen = await FindAsync(id, context.Caller, context.Db, Right.WorkContent, context.Cancel);
        var version = await context
            .Db.WorkspaceVersions.AsNoTracking()
            .SingleOrDefaultAsync(v => v.ItemId == id && v.Number == number, context.Cancel);
        if (seen is null || version is null || safekeeping.Open(version.Hash) is not { } kept)
        {
            return Problems.NotFound("version");
        }

        using var bytes = new MemoryStream();
        await using (kept)
        {
            await kept.CopyToAsync(bytes, context.Cancel);
        }

        var content = await NewContent.OfAsync(bytes.ToArray(), seen.Item.Path, context.Cancel);
        return await ChangeAsync(
            id,
            Operation.EditContent,
            context,
            safekeeping,
            gate,
            (session, place) =>
                ReplaceAsync(
                    session,
                    place,
                    content,
                    "version-restored",
                    context.Caller,
                    context.Calendar,
                    safekeeping,
                    context.Cancel
                )
        );
    }

    /// <summary>
    /// Another content: the former one goes to safekeeping first, so that a stop anywhere loses neither.
    /// </summary>
    private static async Task<Refusal?> ReplaceAsync(
        WriteSession session,
        Place place,
        NewContent content,
        string verb,
        Caller caller,
        OrganisationCalendar calendar,
        Safekeeping safekeeping,
        CancellationToken cancel
    )
    {
        var item = place.Item;
        await KeepAsync(session, place, safekeeping, cancel);
        var last =
            await session.Db.WorkspaceVersions.Where(v => v.ItemId == item.Id).MaxAsync(v => (int?)v.Number, cancel)
            ?? 0;
        if (last == 0)
        {
            session.Db.WorkspaceVersions.Add(
                VersionOf(item, ++last, item.Author ?? "unknown", Instant.FromUnixTimeTicks(item.ModifiedTicks))
            );
        }

        var before = new JsonObject { ["hash"] = item.Hash, ["bytes"] = item.Bytes };
        await place.Workspace.WriteAsync(item.Path, new MemoryStream(content.Bytes), cancel);
        await FillAsync(
            session,
            item,
            place.Workspace,
            content.Text,
            calendar,
            await FieldsOfAsync(session.Db, item.Id, cancel),
            cancel
        );
        session.Db.WorkspaceVersions.Add(VersionOf(item, last + 1, caller.Name, session.Now));
        session.Record(
            verb,
            Subject(item, place.Container, caller),
            before,
            new JsonObject
            {
                ["hash"] = item.Hash,
                ["bytes"] = item.Bytes,
                ["version"] = last + 1,
            }
        );
        await ItemIntake.SettleAsync(session, [item], calendar, cancel);
        return null;
    }

    private static async Task<Dictionary<string, string>> FieldsOfAsync(
        WideKeelDb db,
        long item,
        CancellationToken cancel
    )
    {
        var fields = await db
            .ItemFields.AsNoTracking()
            .Where(f => f.ItemId == item)
            .ToDictionaryAsync(f => f.Name, f => f.Value, cancel);
        foreach (var date in await db.ItemDates.AsNoTracking().Where(d => d.ItemId == item).ToListAsync(cancel))
        {
            fields[date.Name] = LocalDatePattern.Iso.Format(date.Date);
        }

        return fields;
    }

    /// <summary>Puts what the file holds now into safekeeping.</summary>
    private static async Task KeepAsync(
        WriteSession session,
        Place place,
        Safekeeping safekeeping,
        CancellationToken cancel
    )
    {
        await using var content =
            place.Workspace.Open(place.Item.Path) ?? throw new IOException("The file is not in the workspace.");
        var hash = await safekeeping.PutAsync(content, cancel);
        if (!await session.Db.ItemCopies.AnyAsync(c => c.ItemId == place.Item.Id && c.Hash == hash, cancel))
        {
            session.Db.ItemCopies.Add(
                new()
                {
                    ItemId = place.Item.Id,
                    Hash = hash,
                    Bytes = place.Item.Bytes,
                    At = session.Now,
                    Facts = (await VersionFacts.OfAsync(session.Db, [place.Item], cancel))[place.Item.Id],
                }
            );
        }
    }

    /// <summary>The fields as they are after an edit; a field without a value goes.</summary>
    private static Outcome<Dictionary<string, string>> Edited(Dictionary<string, string> before, FieldValues request)
    {
        Dictionary<string, string> after = new(before);
        foreach (var (name, value) in request.Fields)
        {
            var key = name.Trim().ToLowerInvariant().Replace(' ', '-');
            if (
                key.Length is 0 or > 40
                || !key.All(c => char.IsAsciiLetterOrDigit(c) || c == '-')
                || value?.Length > 300
            )
            {
                return new Refusal(
                    "field-malformed",
                    name,
                    "A field's name has letters, digits and hyphens, at most 40; its value at most 300 characters."
                );
            }

            if (string.IsNullOrWhiteSpace(value))
            {
                after.Remove(key);
            }
            else
            {
                after[key] = value.Trim();
            }
        }

        return after.Count <= MostFields
            ? after
            : new Refusal("too-many-fields", "fields", $"A file has at most {MostFields} fields.");
    }

    private static Task<Reply<WorkspaceFileView>> EditFields(
        long id,
        FieldValues request,
        Safekeeping safekeeping,
        SafekeepingGate gate,
        [AsParameters] ApiContext context
    ) =>
        ChangeAsync(
            id,
            Operation.EditFields,
            context,
            safekeeping,
            gate,
            async (session, place) =>
            {
                var before = await FieldsOfAsync(session.Db, id, context.Cancel);
                var edited = Edited(before, request);
                if (edited.Refusal is { } wrong)
                {
                    return wrong;
                }

                var after = edited.Value;
                await session.Db.ItemDates.Where(d => d.ItemId == id).ExecuteDeleteAsync(context.Cancel);
                await session.Db.ItemFields.Where(f => f.ItemId == id).ExecuteDeleteAsync(context.Cancel);
                session.Db.ItemDates.AddRange(
                    DatesOf(after)
                        .Select(d => new ItemDate
                        {
                            ItemId = id,
                            Name = d.Key,
                            Date = d.Value,
                        })
                );
                session.Db.ItemFields.AddRange(
                    TextsOf(after)
                        .Select(f => new ItemField
                        {
                            ItemId = id,
                            Name = f.Key,
                            Value = f.Value,
                        })
                );
                session.Record(
                    "fields-changed",
                    Subject(place.Item, place.Container, context.Caller),
                    Json(before),
                    Json(after)
                );
                await ItemIntake.SettleAsync(session, [place.Item], context.Calendar, context.Cancel);
                return null;

                static JsonObject Json(Dictionary<string, string> fields) =>
                    new(
                        fields
                            .OrderBy(f => f.Key, StringComparer.Ordinal)
                            .Select(f => KeyValuePair.Create(f.Key, (JsonNode?)f.Value))
                    );
            }
        );

    private static Task<Reply<WorkspaceFileView>> Rename(
        long id,
        FileName request,
        Safekeeping safekeeping,
        SafekeepingGate gate,
        [AsParameters] ApiContext context
    ) =>
        ChangeAsync(
            id,
            Operation.EditFields,
            context,
            safekeeping,
            gate,
            async (session, place) =>
            {
                if (WorkspaceFolder.CheckName(request.Name, "name") is { } wrong)
                {
                    return wrong;
                }

                if (
                    !string.Equals(
                        Path.GetExtension(request.Name),
                        Path.GetExtension(place.Item.Path),
                        StringComparison.OrdinalIgnoreCase
                    )
                )
                {
                    return new Refusal(
                        "type-changed",
                        "name",
                        $"A file keeps its type: the name ends in {Path.GetExtension(place.Item.Path)}."
                    );
                }

                return await RelocateAsync(
                    session,
                    place,
                    place.Container,
                    place.Workspace,
                    $"{place.Item.Path[..place.Item.Path.LastIndexOf('/')]}/{request.Name}",
                    "renamed",
                    context.Caller,
                    context.Calendar,
                    context.Cancel
                );
            }
        );

    private static async Task<Refusal?> LeavesItsSeriesAsync(
        WriteSession session,
        Item item,
        Container target,
        ApiContext context
    )
    {
        var series = await session
            .Db.Series.Include(s => s.Unit)
            .SingleOrDefaultAsync(s => s.Id == item.SeriesId, context.Cancel);
        return series is null || new UnitPath(series.Unit!.Path).Covers(context.Caller.PathOf(target.UnitId))
            ? null
            : new(
                "outside-the-series",
                "libraryId",
                $"It is filed under {series.Code}, which does not cover the unit of that library."
            );
    }

    private static async Task<Reply<WorkspaceFileView>> Move(
        long id,
        FilePlace request,
        Safekeeping safekeeping,
        SafekeepingGate gate,
        [AsParameters] ApiContext context
    )
    {
        var (from, to) = (
            await FindAsync(id, context.Caller, context.Db, Right.WorkContent, context.Cancel),
            await LibraryAsync(request.LibraryId, context.Caller, context.Db, context.Cancel)
        );
        if (from is null || to is not { } target)
        {
            return Problems.NotFound(from is null ? "file" : "library");
        }

        var operation =
            target.Container.Id == from.Container.Id ? Operation.MoveWithin
            : target.Container.SourceId == from.Container.SourceId ? Operation.MoveAcross
            : Operation.MoveAway;
        return await ChangeAsync(
            id,
            operation,
            context,
            safekeeping,
            gate,
            async (session, place) =>
            {
                var within = (request.Folder ?? "").Trim('/');
                if (WorkspaceFolder.CheckFolder(within, "folder") is { } wrong)
                {
                    return wrong;
                }

                if (
                    operation != Operation.MoveWithin
                    && await LeavesItsSeriesAsync(session, place.Item, target.Container, context) is { } outside
                )
                {
                    return outside;
                }

                return await RelocateAsync(
                    session,
                    place,
                    target.Container,
                    target.Workspace,
                    PathOf(target.Container.Name, within, Path.GetFileName(place.Item.Path)),
                    "moved",
                    context.Caller,
                    context.Calendar,
                    context.Cancel
                );
            }
        );
    }

    /// <summary>Moves a file into a workspace of another source: the copy is whole before the file goes.</summary>
    private static async Task CarryAsync(
        WorkspaceFolder from,
        string path,
        WorkspaceFolder to,
        string toPath,
        CancellationToken cancel
    )
    {
        await using (var content = from.Open(path) ?? throw new IOException("The file is not in the workspace."))
        {
            await to.WriteAsync(toPath, content, cancel);
        }

        from.Delete([new(path)]);
    }

    /// <summary>
    /// Another path, perhaps in another library. The rules of the new place apply from now on; what kept the file
    /// longer so far goes on to do so.
    /// </summary>
    private static async Task<Refusal?> RelocateAsync(
        WriteSession session,
        Place place,
        Container target,
        WorkspaceFolder workspace,
        string path,
        string verb,
        Caller caller,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var item = place.Item;
        if (path == item.Path && target.Id == place.Container.Id)
        {
            return null;
        }

        if (workspace.Has(path))
        {
            return Refusal.Conflict(
                "name-taken",
                verb == "renamed" ? "name" : "folder",
                $"There is a “{Path.GetFileName(path)}” there already."
            );
        }

        var from = item.Path;
        if (target.SourceId == place.Container.SourceId)
        {
            workspace.Move(from, path);
        }
        else
        {
            await CarryAsync(place.Workspace, from, workspace, path, cancel);
        }

        var sameTitle = item.Title == Path.GetFileName(from);
        item = await ItemIntake.MoveAsync(session, item.Id, path, target.Id, calendar.Today, cancel);
        item.ModifiedTicks = workspace.Describe(path).Modified.ToUnixTimeTicks();
        item.Title = sameTitle ? Path.GetFileName(path) : item.Title;
        await session.Db.SaveChangesAsync(cancel);
        FullText.Put(
            session,
            item,
            await session.Db.ItemTexts.Where(t => t.ItemId == item.Id).Select(t => t.Text).SingleOrDefaultAsync(cancel)
                ?? ""
        );
        session.Record(
            verb,
            Subject(item, target, caller),
            new JsonObject { ["path"] = from },
            new JsonObject { ["path"] = path }
        );
        await ItemIntake.SettleAsync(session, [item], calendar, cancel);
        await session.Db.Entry(item).ReloadAsync(cancel);
        return null;
    }

    private static async Task<Reply<Done>> Delete(
        long id,
        Safekeeping safekeeping,
        SafekeepingGate gate,
        [AsParameters] ApiContext context
    ) =>
        await gate.RunAsync(
            () =>
                context.Writer.RunAsync<Done>(
                    context.Caller.Actor,
                    async session =>
                    {
                        var asked = await AskAsync(session, id, Operation.Delete, context);
                        if (asked.Refusal is { } refusal)
                        {
                            return refusal;
                        }

                        var (place, decision) = asked.Value;
                        if (decision.CopiesFirst)
                        {
                            await KeepAsync(session, place, safekeeping, context.Cancel);
                        }

                        if (place.Workspace.Delete([new(place.Item.Path)]).Values.FirstOrDefault() is { } failure)
                        {
                            return new Refusal("source-refused", null, failure);
                        }

                        place.Item.MissingSince = session.Now;
                        session.Record(
                            "deleted",
                            Subject(place.Item, place.Container, context.Caller),
                            new JsonObject { ["path"] = place.Item.Path, ["hash"] = place.Item.Hash },
                            new JsonObject { ["keptInSafekeeping"] = decision.CopiesFirst }
                        );
                        return new Done();
                    },
                    context.Cancel
                ),
            context.Cancel
        );

    /// <summary>
    /// One operation on one file: who, which state, may they; then the act, in one transaction with its entry.
    /// </summary>
    private static async Task<Reply<WorkspaceFileView>> ChangeAsync(
        long id,
        Operation operation,
        ApiContext context,
        Safekeeping safekeeping,
        SafekeepingGate gate,
        Func<WriteSession, Place, Task<Refusal?>> act
    )
    {
        var (caller, cancel) = (context.Caller, context.Cancel);
        var outcome = await gate.RunAsync(
            () =>
                context.Writer.RunAsync<bool>(
                    caller.Actor,
                    async session =>
                    {
                        var asked = await AskAsync(session, id, operation, context);
                        if (asked.Refusal is { } refusal)
                        {
                            return refusal;
                        }

                        if (await act(session, asked.Value.Place) is { } refused)
                        {
                            return refused;
                        }

                        var file = await session.Db.WorkspaceFiles.SingleOrDefaultAsync(f => f.ItemId == id, cancel);
                        if (file is null)
                        {
                            session.Db.WorkspaceFiles.Add(
                                new()
                                {
                                    ItemId = id,
                                    By = caller.Name,
                                    At = session.Now,
                                    Revision = 2,
                                }
                            );
                        }
                        else
                        {
                            (file.By, file.At, file.Revision) = (caller.Name, session.Now, file.Revision + 1);
                        }

                        return true;
                    },
                    cancel
                ),
            cancel
        );
        return outcome.Refused ? outcome.Refusal! : await Show(id, caller, context.Db, context.Calendar, cancel);
    }

    private static async Task<Outcome<(Place Place, GradeDecision Decision)>> AskAsync(
        WriteSession session,
        long id,
        Operation operation,
        ApiContext context
    )
    {
        var (caller, calendar, cancel) = (context.Caller, context.Calendar, context.Cancel);
        if (await FindAsync(id, caller, session.Db, Right.WorkContent, cancel, track: true) is not { } place)
        {
            return Problems.NotFound("file");
        }

        if (
            Problems.CheckMatch(
                context.Http,
                await session
                    .Db.WorkspaceFiles.Where(f => f.ItemId == id)
                    .Select(f => (long?)f.Revision)
                    .SingleOrDefaultAsync(cancel)
                    ?? 1
            ) is
            { } stale
        )
        {
            return stale;
        }

        var held = await ItemIntake.IsHeldAsync(session, place.Item, calendar.Today, cancel);
        var decision = GradeTable.Decide(GradeOf(place.Item, held, calendar.Today), held, operation);
        if (!decision.Allowed)
        {
            session.RecordAttempt(
                $"refused-{System.Text.Json.JsonNamingPolicy.KebabCaseLower.ConvertName(operation.ToString())}",
                Subject(place.Item, place.Container, caller),
                decision.Sentence!
            );
            return Refusal.Forbidden("grade", null, decision.Sentence!);
        }

        return (place, decision);
    }

    /// <summary>A file that is there, in a workspace, within the right.</summary>
    private static async Task<Place?> FindAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        Right right,
        CancellationToken cancel,
        bool track = false
    )
    {
        var items = track ? db.Items : db.Items.AsNoTracking();
        var item = await items.SingleOrDefaultAsync(
            i => i.Id == id && i.DestroyedAt == null && i.MissingSince == null,
            cancel
        );
        if (item is null)
        {
            return null;
        }

        var container = await db.Containers.AsNoTracking().SingleAsync(c => c.Id == item.ContainerId, cancel);
        var source = await db.Sources.AsNoTracking().SingleAsync(s => s.Id == container.SourceId, cancel);
        return source is { Kind: SourceKind.Workspace, Connected: true } && caller.May(right, container.UnitId)
            ? new(item, container, new WorkspaceFolder(source.Root))
            : null;
    }

    private static async Task<(Container Container, WorkspaceFolder Workspace)?> LibraryAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var row = await (
            from c in db.Containers.AsNoTracking()
            join s in db.Sources on c.SourceId equals s.Id
            where c.Id == id && s.Kind == SourceKind.Workspace && s.Connected
            select new { Container = c, s.Root }
        ).SingleOrDefaultAsync(cancel);
        return row is not null && caller.May(Right.WorkContent, row.Container.UnitId)
            ? (row.Container, new WorkspaceFolder(row.Root))
            : null;
    }

    private static string PathOf(string library, string folder, string? name) =>
        string.Join('/', new[] { library, folder, name }.Where(p => !string.IsNullOrEmpty(p)));

    private static LedgerSubject Subject(Item item, Container container, Caller caller) =>
        new("item", item.Id.ToString(CultureInfo.InvariantCulture), caller.PathOf(container.UnitId).Value);

    private static LedgerSubject Subject(Container container, Caller caller) =>
        new("container", container.Id.ToString(CultureInfo.InvariantCulture), caller.PathOf(container.UnitId).Value);

    private sealed record Place(Item Item, Container Container, WorkspaceFolder Workspace);
}

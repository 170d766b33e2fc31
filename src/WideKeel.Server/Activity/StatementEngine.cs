using System.Globalization;
using DuckDB.NET.Data;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.AtRest;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>Whose statement it is, and where what they may read is read.</summary>
public sealed record StatementGround(
    Caller Caller,
    WideKeelDb Db,
    OrganisationCalendar Calendar,
    CancellationToken Cancel
)
{
    public static StatementGround Of(ApiContext context) =>
        new(context.Caller, context.Db, context.Calendar, context.Cancel);
}

/// <summary>
/// Answers statements in SQL: over what their person may read, by an engine that can do nothing else. Screens, gauges and
/// tests of controls ask here alike.
/// </summary>
public sealed class StatementEngine(IEnumerable<ISqlViewSource> sources, ArchiveFiles archive, WideKeelOptions options)
{
    private const int MostCharacters = 100_000;
    private static readonly TimeSpan MostTime = TimeSpan.FromSeconds(60);

    /// <summary>The views of the product that a caller may ask.</summary>
    public IReadOnlyList<SqlView> ViewsOf(Caller caller) =>
        [
            .. StatementViews.Of(caller),
            .. sources.SelectMany(s => s.Views).Where(v => v.May(caller)).Select(v => v.View),
        ];

    /// <summary>
    /// Checks the statement, gives the views that it names to a process of its own, and reads its answer, within the time
    /// that all of it may take.
    /// </summary>
    public async Task<Refusal?> RunAsync(
        StatementRequest request,
        StatementGround ground,
        Func<StatementRows, Task> read
    )
    {
        if (request.Sql is not { Length: <= MostCharacters })
        {
            return new("statement-too-long", "sql", "A statement has at most 100,000 characters.");
        }

        using var limit = CancellationTokenSource.CreateLinkedTokenSource(ground.Cancel);
        limit.CancelAfter(MostTime);
        var process = StatementProcess.Take(limit.Token);
        var done = false;
        try
        {
            var refusal = await AnswerAsync(request, ground with { Cancel = limit.Token }, process, read);
            done = process.IsDone;
            return refusal;
        }
        catch (Exception e)
            when (e is IOException or OperationCanceledException && !ground.Cancel.IsCancellationRequested)
        {
            return limit.IsCancellationRequested
                ? new("statement-too-slow", "sql", "The statement took more than 60 seconds and was stopped.")
                : new(
                    "statement-too-large",
                    "sql",
                    "The statement needs more memory than it may take, and was stopped. Ask for fewer rows or columns."
                );
        }
        finally
        {
            if (done)
            {
                process.GiveBack();
            }
            else
            {
                process.Dispose();
            }
        }
    }

    private async Task<Refusal?> AnswerAsync(
        StatementRequest request,
        StatementGround ground,
        StatementProcess process,
        Func<StatementRows, Task> read
    )
    {
        var uploads = Uploads(ground.Caller);
        HashSet<string> views = [.. ViewsOf(ground.Caller).Select(v => v.Name), .. uploads.Keys];
        var asked = StatementGuard.Check(await process.ParseAsync(request.Sql), views);
        if (asked.Refusal is { } refusal)
        {
            return refusal;
        }

        var parameters = Named(request);
        if (parameters.Select(p => p.Read().Refusal).FirstOrDefault(r => r is not null) is { } malformed)
        {
            return malformed;
        }

        using var segments = new OpenSegments(archive);
        using var scratch = new ScratchFolder(archive.StatementFolder);
        var database = Path.Combine(scratch.Path, "rows.duckdb");
        StatementFill fill;
        using (var engine = SegmentFile.EngineIn(database))
        {
            try
            {
                fill = await StatementViews.FillAsync(engine, asked.Value, uploads, segments, ground);
            }
            catch (IOException e)
            {
                return new("archive-not-readable", null, $"A file of the archive cannot be read: {e.Message}");
            }

            if (fill.Missing.Count > 0 && !request.WithoutMissing)
            {
                return Incomplete(fill.Missing);
            }

            await FillRowsAsync(engine, asked.Value, ground);
        }

        return await process.RunAsync(new(database, fill.Prepare, fill.Files, request.Sql, parameters), read);
    }

    private static Refusal Incomplete(IReadOnlyList<MissingSegment> missing)
    {
        var (first, more) = (missing[0], missing.Count - 1);
        return Refusal.Conflict(
            "archive-incomplete",
            null,
            $"{(more == 0 ? "A sealed file is" : "Sealed files are")} missing from the archive: "
                + $"{first.Channel}/day={LocalDatePattern.Iso.Format(first.Day)}/{first.Number}.parquet"
                + (more == 0 ? "" : $" and {Wording.Number(more)} more")
                + (first.Events is null ? ", with " : $", with {Wording.Number(missing.Sum(m => m.Events)!.Value)} ")
                + "events that are no longer at hand. An answer would leave them out."
        );
    }

    /// <summary>The values that the statement names; it may be given more.</summary>
    private static List<StatementParameter> Named(StatementRequest request)
    {
        var named = StatementGuard.ParametersOf(request.Sql);
        return [.. (request.Parameters ?? []).DistinctBy(p => p.Name).Where(p => named.Contains(p.Name))];
    }

    private async Task FillRowsAsync(DuckDBConnection engine, IReadOnlySet<string> asked, StatementGround ground)
    {
        foreach (var source in sources)
        {
            foreach (var (view, _) in source.Views.Where(v => asked.Contains(v.View.Name)))
            {
                StatementViews.Create(engine, view);
                using var appender = engine.CreateAppender(view.Name);
                await foreach (var row in source.RowsAsync(view.Name, ground).WithCancellation(ground.Cancel))
                {
                    StatementViews.Row(appender, row);
                }
            }
        }
    }

    /// <summary>Where the tables that somebody uploaded lie.</summary>
    public string UploadFolder(Caller caller) =>
        Path.Combine(options.DataFolder, "tables", caller.PersonId.ToString(CultureInfo.InvariantCulture));

    /// <summary>Their tables by name, with the file of each.</summary>
    public IReadOnlyDictionary<string, string> Uploads(Caller caller) =>
        UploadFolder(caller) is var folder && Directory.Exists(folder)
            ? Directory
                .EnumerateFiles(folder, "*.parquet")
                .ToDictionary(f => Path.GetFileNameWithoutExtension(f), f => f, StringComparer.OrdinalIgnoreCase)
            : new Dictionary<string, string>();
}

/// <summary>Views of SQL that a part brings.</summary>
public interface ISqlViewSource : IContribution
{
    /// <summary>Each view with who may ask it.</summary>
    IReadOnlyList<(SqlView View, Func<Caller, bool> May)> Views { get; }

    /// <summary>The rows of a view within what its person may read: text, long, double, bool, DateOnly, or null.</summary>
    IAsyncEnumerable<object?[]> RowsAsync(string view, StatementGround ground);
}

/// <summary>A folder for one piece of work, gone when it ends.</summary>
internal sealed class ScratchFolder : IDisposable
{
    public ScratchFolder(string parent)
    {
        Path = System.IO.Path.Combine(parent, Guid.NewGuid().ToString("N"));
        Directory.CreateDirectory(Path, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
    }

    public string Path { get; }

    public void Dispose() => Directory.Delete(Path, recursive: true);
}

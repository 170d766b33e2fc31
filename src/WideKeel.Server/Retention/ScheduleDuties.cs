using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>Drafts that are not in force, and items that nobody has filed.</summary>
internal sealed class ScheduleDuties : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked) =>
        [.. await ToMendAsync(asked), .. await DraftsAsync(asked), .. await UnfiledAsync(asked)];

    private static async Task<IEnumerable<Duty>> ToMendAsync(DutyQuestion asked)
    {
        if (!asked.Caller.May(Right.WriteSchedule) || !asked.Caller.May(Right.ReadContent))
        {
            return [];
        }

        return from found in await ToMendEndpoints.CountAsync(asked.Caller, asked.Db, asked.Calendar, pressing: true)
            where found.Value > 0
            let words = ToMendEndpoints.WordsOf(found.Key)
            let word = found.Key.ToString().ToLowerInvariant()
            select new Duty(
                "to-mend",
                $"to-mend-{word}",
                $"{words.Title}: {Wording.Plural(found.Value, "item")}",
                words.Meaning,
                null,
                "no date",
                found.Key == ToMend.Field ? "Mend the dates" : "Settle them",
                $"/schedule/to-mend?kind={word}",
                found.Key == ToMend.Altered
            );
    }

    private static async Task<IEnumerable<Duty>> DraftsAsync(DutyQuestion asked)
    {
        if (!asked.Caller.May(Right.WriteSchedule))
        {
            return [];
        }

        var drafts = await asked
            .Db.Series.AsNoTracking()
            .Where(s => s.Draft != null)
            .OrderBy(s => s.Code)
            .ToListAsync(asked.Cancel);
        return drafts
            .Where(s => asked.Caller.May(Right.WriteSchedule, s.UnitId))
            .Select(s => new Duty(
                "draft",
                $"draft-{s.Id}",
                $"Draft not yet in force: {s.Draft!.Title}",
                s.State == SeriesState.Draft
                    ? $"{s.Code} · items filed under it are not kept yet"
                    : $"{s.Code} · version {s.VersionInForce} rules meanwhile",
                null,
                s.DraftBy is null ? "no date" : $"by {s.DraftBy}",
                "See what it does",
                $"/schedule/{s.Id}",
                false
            ));
    }

    private static async Task<IEnumerable<Duty>> UnfiledAsync(DutyQuestion asked)
    {
        if (!asked.Caller.May(Right.FileContent) || !asked.Caller.May(Right.ReadContent))
        {
            return [];
        }

        await asked.Db.Database.OpenConnectionAsync(asked.Cancel);
        var filter = asked.Caller.Items() with { Unfiled = true };
        using var command = ((SqliteConnection)asked.Db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = $"SELECT COUNT(*) FROM item i WHERE i.DestroyedAt IS NULL AND {filter.Where()}";
        filter.Bind(command, asked.Today.ToDayNumber());
        return (long)command.ExecuteScalar()! is var unfiled && unfiled == 0
            ? []
            :
            [
                new Duty(
                    "unfiled",
                    "unfiled",
                    $"{Wording.Plural(unfiled, "item")} {(unfiled == 1 ? "is" : "are")} filed under no series",
                    "Nothing keeps them and nothing removes them",
                    null,
                    "no date",
                    "File them",
                    "/content?unfiled=true",
                    false
                ),
            ];
    }
}

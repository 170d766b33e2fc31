using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>Sources that are not read as they should be, and copies that rotted.</summary>
internal sealed class ContentDuties : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked)
    {
        var (caller, db, _, cancel) = asked;
        if (!caller.May(Right.ReadSources))
        {
            return [];
        }

        List<Duty> duties = [];
        var sources = await db.Sources.AsNoTracking().ToListAsync(cancel);
        if (sources.Count == 0)
        {
            duties.Add(
                OfSources(
                    "no-source",
                    "No source is connected yet",
                    "Content is known once a source has been scanned",
                    "Connect a source"
                )
            );
        }

        foreach (var source in sources)
        {
            if (await UnreadableOnAsync(source, asked) is { } unreadable)
            {
                duties.Add(unreadable);
            }

            if (!source.Connected)
            {
                duties.Add(
                    OfSources(
                        $"disconnected-{source.Id}",
                        $"{source.Name} is disconnected",
                        "Nothing new of it is known",
                        "Open sources"
                    )
                );
            }
            else if (source.LastScan is null)
            {
                duties.Add(
                    OfSources(
                        $"unscanned-{source.Id}",
                        $"{source.Name} has not been scanned yet",
                        "Nothing of it is known",
                        "Open sources"
                    )
                );
            }
        }

        if (await db.BrokenCopies.CountAsync(cancel) is var broken and > 0)
        {
            duties.Add(Broken(broken));
        }

        return duties;
    }

    private static Duty OfSources(string key, string title, string why, string action) =>
        new("scan", key, title, why, null, "no date", action, "/set-up/sources", false);

    private static async Task<Duty?> UnreadableOnAsync(Source source, DutyQuestion asked) =>
        await asked.Db.Unreadables.CountAsync(u => u.SourceId == source.Id, asked.Cancel) is var unreadable and > 0
            ? new(
                "unreadable",
                $"unreadable-{source.Id}",
                $"{Wording.Plural(unreadable, "file")} could not be read on {source.Name}",
                "They are under no rule until they can be",
                null,
                $"scan of {Wording.Day(asked.Calendar.DateOf(source.LastScan!.Value))}",
                "See the reasons",
                $"/set-up/sources?exceptions={source.Id}",
                false
            )
            : null;

    private static Duty Broken(int copies) =>
        new(
            "broken",
            "broken",
            $"{Wording.Plural(copies, "copy", "copies")} in safekeeping {(copies == 1 ? "is" : "are")} "
                + $"no longer what {(copies == 1 ? "it was" : "they were")}",
            "Put back what the source still has, or restore from a backup",
            null,
            "no date",
            "See which",
            "/set-up/sources",
            true
        );
}

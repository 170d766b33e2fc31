using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;

namespace WideKeel.Server.Content;

/// <summary>Sources that are not read as they should be, and copies that rotted.</summary>
internal sealed class ContentDuties : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked)
    {
        var (caller, db, calendar, cancel) = asked;
        if (!caller.May(Right.ReadSources))
        {
            return [];
        }

        List<Duty> duties = [];
        var sources = await db.Sources.AsNoTracking().ToListAsync(cancel);
        if (sources.Count == 0)
        {
            duties.Add(
                new(
                    "scan",
                    "no-source",
                    "No source is connected yet",
                    "Content is known once a source has been scanned",
                    null,
                    "no date",
                    "Connect a source",
                    "/set-up/sources",
                    false
                )
            );
        }

        foreach (var source in sources)
        {
            var unreadable = await db.Unreadables.CountAsync(u => u.SourceId == source.Id, cancel);
            if (unreadable > 0)
            {
                duties.Add(
                    new(
                        "unreadable",
                        $"unreadable-{source.Id}",
                        $"{Wording.Plural(unreadable, "file")} could not be read on {source.Name}",
                        "They are under no rule until they can be",
                        null,
                        $"scan of {Wording.Day(calendar.DateOf(source.LastScan!.Value))}",
                        "See the reasons",
                        $"/set-up/sources?exceptions={source.Id}",
                        false
                    )
                );
            }

            if (!source.Connected)
            {
                duties.Add(
                    new(
                        "scan",
                        $"disconnected-{source.Id}",
                        $"{source.Name} is disconnected",
                        "Nothing new of it is known",
                        null,
                        "no date",
                        "Open sources",
                        "/set-up/sources",
                        false
                    )
                );
            }
            else if (source.LastScan is null)
            {
                duties.Add(
                    new(
                        "scan",
                        $"unscanned-{source.Id}",
                        $"{source.Name} has not been scanned yet",
                        "Nothing of it is known",
                        null,
                        "no date",
                        "Open sources",
                        "/set-up/sources",
                        false
                    )
                );
            }
        }

        if (await db.BrokenCopies.CountAsync(cancel) is var broken and > 0)
        {
            duties.Add(
                new(
                    "broken",
                    "broken",
                    $"{Wording.Plural(broken, "copy", "copies")} in safekeeping {(broken == 1 ? "is" : "are")} "
                        + $"no longer what {(broken == 1 ? "it was" : "they were")}",
                    "Put back what the source still has, or restore from a backup",
                    null,
                    "no date",
                    "See which",
                    "/set-up/sources",
                    true
                )
            );
        }
        return duties;
    }
}

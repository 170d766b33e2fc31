using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Store;

namespace WideKeel.Server.Activity;

/// <summary>What all watches need to know besides events.</summary>
/// <param name="Left">Who has left, with the day.</param>
internal sealed record WatchGround(
    NamedNetworks Networks,
    IReadOnlyList<WatchPerson> People,
    DateTimeZone Zone,
    IReadOnlyDictionary<string, LocalDate> Left
)
{
    public static async Task<WatchGround> LoadAsync(
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var networks = await db.Networks.AsNoTracking().OrderBy(n => n.Id).ToListAsync(cancel);
        var people = await db.DirectoryPeople.AsNoTracking().ToListAsync(cancel);
        return new(
            new([.. networks.Select(NetworkEndpoints.Named)]),
            [
                .. people
                    .DistinctBy(p => p.Mail.ToLowerInvariant())
                    .Select(p => new WatchPerson(p.Mail.ToLowerInvariant(), p.Unit, p.Title)),
            ],
            calendar.Zone,
            people
                .Where(p => p.LeavesOn is not null)
                .DistinctBy(p => p.Mail.ToLowerInvariant())
                .ToDictionary(p => p.Mail.ToLowerInvariant(), p => p.LeavesOn!.Value)
        );
    }

    public WatchRun Run(IEnumerable<ActivityEvent> events, Instant until) => new(events, Networks, People, Zone, until);
}

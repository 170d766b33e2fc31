using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Store;

namespace WideKeel.Server.Kernel;

/// <summary>
/// The organisation's calendar: its zone turns moments into dates, its fiscal year feeds the cutoffs.
/// </summary>
public sealed class OrganisationCalendar(IClock clock, IDbContextFactory<WideKeelDb> databases)
{
    private (DateTimeZone Zone, FiscalYearEnd FiscalYearEnd)? settings;

    public LocalDate Today => DateOf(clock.GetCurrentInstant());

    public LocalDate DateOf(Instant moment) => moment.InZone(Settings.Zone).Date;

    public DateTimeZone Zone => Settings.Zone;

    public Evaluator Evaluator => new(Today, Settings.FiscalYearEnd);

    /// <summary>Whether there is an organisation.</summary>
    public async Task<bool> IsSetUpAsync()
    {
        await using var db = await databases.CreateDbContextAsync();
        return await db.Organisations.AnyAsync();
    }

    /// <summary>To be called when the organisation's settings change.</summary>
    public void Forget() => settings = null;

    private (DateTimeZone Zone, FiscalYearEnd FiscalYearEnd) Settings
    {
        get
        {
            if (settings is { } known)
            {
                return known;
            }

            using var db = databases.CreateDbContext();
            var organisation = db.Organisations.AsNoTracking().SingleOrDefault();
            if (organisation is null)
            {
                return (DateTimeZone.Utc, FiscalYearEnd.CalendarYear);
            }

            var read = (
                DateTimeZoneProviders.Tzdb[organisation.Zone],
                FiscalYearEnd.Parse(organisation.FiscalYearEnd).Value
            );
            settings = read;
            return read;
        }
    }
}

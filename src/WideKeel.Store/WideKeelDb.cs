using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;
using NodaTime;
using WideKeel.Core.Time;
using WideKeel.Store.People;

namespace WideKeel.Store;

/// <summary>
/// The one database. Instants are stored as milliseconds since 1970 (UTC), dates as day numbers: both sort and compare
/// as integers. Each part adds its tables in a file of its own folder.
/// </summary>
public sealed partial class WideKeelDb(DbContextOptions<WideKeelDb> options)
    : IdentityUserContext<Person, long>(options)
{
    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.ApplyConfigurationsFromAssembly(typeof(WideKeelDb).Assembly);
    }

    protected override void ConfigureConventions(ModelConfigurationBuilder configurationBuilder)
    {
        configurationBuilder.Properties<Instant>().HaveConversion<InstantConverter>();
        configurationBuilder.Properties<LocalDate>().HaveConversion<DateConverter>();
        configurationBuilder.Properties<Enum>().HaveConversion<string>();
    }

    private sealed class InstantConverter()
        : ValueConverter<Instant, long>(i => i.ToUnixTimeMilliseconds(), ms => Instant.FromUnixTimeMilliseconds(ms));

    private sealed class DateConverter()
        : ValueConverter<LocalDate, int>(d => d.ToDayNumber(), n => DayNumber.ToDate(n));
}

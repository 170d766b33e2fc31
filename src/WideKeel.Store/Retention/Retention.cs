using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using WideKeel.Core.Retention;

namespace WideKeel.Store.Retention;

public enum SeriesState
{
    /// <summary>No version has been in force yet; items can be filed, nothing keeps them.</summary>
    Draft,
    Active,
}

/// <summary>A record series: its code, its place, the definition in force and the draft being written.</summary>
public sealed class Series
{
    public long Id { get; init; }

    public required string Code { get; init; }

    public long UnitId { get; set; }

    public People.Unit? Unit { get; init; }

    public SeriesState State { get; set; }

    /// <summary>The title of the definition in force, or of the draft before there is one.</summary>
    public required string Title { get; set; }

    /// <summary>Number of the version in force; 0 before the first.</summary>
    public int VersionInForce { get; set; }

    public SeriesDefinition? InForce { get; set; }

    public SeriesDefinition? Draft { get; set; }

    public string? DraftBy { get; set; }

    public Instant? DraftAt { get; set; }

    /// <summary>Rises with every write; the ETag.</summary>
    public long Revision { get; set; } = 1;
}

/// <summary>A version that was put into effect.</summary>
public sealed class SeriesVersion
{
    public long Id { get; init; }

    public long SeriesId { get; init; }

    public int Number { get; init; }

    public required SeriesDefinition Definition { get; init; }

    public required string By { get; init; }

    public Instant At { get; init; }

    public required string Why { get; init; }
}

/// <summary>How definitions are written to their columns.</summary>
internal static class DefinitionJson
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web) { Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) } };

    public static string Write(SeriesDefinition definition) => JsonSerializer.Serialize(definition, Options);

    public static SeriesDefinition Read(string text) => JsonSerializer.Deserialize<SeriesDefinition>(text, Options)!;
}

internal sealed class SeriesTable : IEntityTypeConfiguration<Series>
{
    public void Configure(EntityTypeBuilder<Series> table)
    {
        table.ToTable("series").HasIndex(s => s.Code).IsUnique();
        table.HasOne(s => s.Unit).WithMany().HasForeignKey(s => s.UnitId);
        table.Property(s => s.Revision).IsConcurrencyToken();
        table.Property(s => s.InForce).HasConversion(d => DefinitionJson.Write(d!), t => DefinitionJson.Read(t));
        table.Property(s => s.Draft).HasConversion(d => DefinitionJson.Write(d!), t => DefinitionJson.Read(t));
    }
}

internal sealed class SeriesVersionTable : IEntityTypeConfiguration<SeriesVersion>
{
    public void Configure(EntityTypeBuilder<SeriesVersion> table)
    {
        table.ToTable("series_version").HasIndex(v => new { v.SeriesId, v.Number }).IsUnique();
        table.HasOne<Series>().WithMany().HasForeignKey(v => v.SeriesId);
        table.Property(v => v.Definition).HasConversion(d => DefinitionJson.Write(d), t => DefinitionJson.Read(t));
    }
}

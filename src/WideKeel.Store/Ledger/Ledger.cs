using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace WideKeel.Store.Ledger;

/// <summary>
/// One ledger entry. Only <see cref="Body"/> and <see cref="LeafHash"/> are written; the columns that searches use are
/// computed by SQLite from the body, so that they cannot say anything else than what is hashed.
/// </summary>
public sealed class LedgerRow
{
    public long Sequence { get; init; }

    public required string Body { get; init; }

    public required byte[] LeafHash { get; init; }

    public string At { get; private set; } = "";

    public string Who { get; private set; } = "";

    public string Verb { get; private set; } = "";

    public string SubjectKind { get; private set; } = "";

    public string SubjectId { get; private set; } = "";

    public string? SubjectUnit { get; private set; }
}

internal sealed class LedgerTable : IEntityTypeConfiguration<LedgerRow>
{
    public void Configure(EntityTypeBuilder<LedgerRow> table)
    {
        table.ToTable("ledger").HasKey(l => l.Sequence);
        table.Property(l => l.Sequence).ValueGeneratedNever();
        Computed("At", "$.at");
        Computed("Who", "$.who");
        Computed("Verb", "$.verb");
        Computed("SubjectKind", "$.subject.kind");
        Computed("SubjectId", "$.subject.id");
        Computed("SubjectUnit", "$.subject.unit");
        table.HasIndex(l => new { l.SubjectKind, l.SubjectId });
        table.HasIndex(l => l.Verb);
        table.HasIndex(l => l.Who);

        void Computed(string name, string path) =>
            table.Property<string>(name).HasComputedColumnSql($"json_extract(body, '{path}')", stored: true);
    }
}

using System.Globalization;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.Query;

/// <summary>How the values of an index are compared.</summary>
public enum IndexKind
{
    /// <summary>Word by word.</summary>
    Words,

    /// <summary>As a whole.</summary>
    Names,
    Dates,
    Sizes,

    /// <summary>By what each value turns out to be: a date, a number or a name.</summary>
    Any,

    /// <summary>Moments in UTC; a day, a month or a year stands for all of its moments.</summary>
    Instants,

    /// <summary>As a whole; a network in CIDR form (RFC 4632, RFC 4291) stands for all of its addresses.</summary>
    Addresses,
}

/// <summary>
/// What can be asked of an item, with all that the language knows of it: its name, how its values are compared, and
/// where an item has them. A new index is a new entry of <see cref="All"/>; the SQL for it stands with its column.
/// </summary>
public sealed class QueryIndex
{
    private readonly Func<QueryItem, IEnumerable<string>>? many;
    private readonly Func<QueryItem, string?>? one;

    internal QueryIndex(string name, IndexKind kind, Func<QueryItem, string?>? one) =>
        (Name, Kind, this.one) = (name, kind, one);

    private QueryIndex(string name, IndexKind kind, Func<QueryItem, IEnumerable<string>> many)
        : this(name, kind, (Func<QueryItem, string?>?)null) => this.many = many;

    /// <summary>Title and body together; the body, too, can be asked for as a whole.</summary>
    public static QueryIndex Text { get; } =
        new("text", IndexKind.Words, i => [.. One(i.Title), .. One(i.Body)]) { IsSentence = true };

    public static QueryIndex Title { get; } = new("title", IndexKind.Words, i => i.Title) { IsSentence = true };

    public static QueryIndex Author { get; } = new("author", IndexKind.Words, i => i.Author);

    public static QueryIndex Owner { get; } = new("owner", IndexKind.Words, i => i.Owner);

    public static QueryIndex Path { get; } = new("path", IndexKind.Names, i => i.Path);

    public static QueryIndex Type { get; } = new("type", IndexKind.Names, i => i.Type);

    public static QueryIndex Source { get; } = new("source", IndexKind.Names, i => i.Source);

    public static QueryIndex Container { get; } = new("container", IndexKind.Names, i => i.Container);

    public static QueryIndex Unit { get; } = new("unit", IndexKind.Names, i => i.Unit);

    public static QueryIndex Series { get; } = new("series", IndexKind.Names, i => i.Series);

    public static QueryIndex Grade { get; } = new("grade", IndexKind.Names, i => i.Grade);

    public static QueryIndex State { get; } = new("state", IndexKind.Names, i => i.State);

    public static QueryIndex Searchable { get; } = new("searchable", IndexKind.Names, i => i.Searchable);

    public static QueryIndex Sensitive { get; } = new("sensitive", IndexKind.Names, i => i.Sensitive);

    public static QueryIndex Created { get; } = OfDate("created", i => i.Created);

    public static QueryIndex Modified { get; } = OfDate("modified", i => i.Modified);

    public static QueryIndex Size { get; } =
        new("size", IndexKind.Sizes, i => i.Size?.ToString(CultureInfo.InvariantCulture));

    /// <summary>Any other field, by its name.</summary>
    public static QueryIndex Field { get; } = new("field", IndexKind.Any, (Func<QueryItem, string?>?)null);

    public static IReadOnlyList<QueryIndex> All { get; } =
    [
        Text,
        Title,
        Author,
        Owner,
        Path,
        Type,
        Source,
        Container,
        Unit,
        Series,
        Grade,
        State,
        Searchable,
        Sensitive,
        Created,
        Modified,
        Size,
        Field,
    ];

    /// <summary>As a query names it.</summary>
    public string Name { get; }

    public IndexKind Kind { get; }

    /// <summary>Words are meant in their order; a name is written in either order.</summary>
    public bool IsSentence { get; internal init; }

    /// <summary>An item has one value of it, so items can be put in its order.</summary>
    public bool HasOneValue => many is null;

    /// <summary>The date that an item has of it; null where there is none, or it is no index of dates.</summary>
    public Func<QueryItem, LocalDate?>? Date { get; private init; }

    /// <summary>The values that an item has.</summary>
    /// <param name="field">Name of the field for <see cref="Field"/>.</param>
    public IEnumerable<string> Of(QueryItem item, string? field) =>
        this == Field ? One(item.Fields.GetValueOrDefault(field!)) : many?.Invoke(item) ?? One(one!(item));

    public override string ToString() => Name;

    private static QueryIndex OfDate(string name, Func<QueryItem, LocalDate?> date) =>
        new(name, IndexKind.Dates, i => date(i) is { } day ? LocalDatePattern.Iso.Format(day) : null) { Date = date };

    private static string[] One(string? value) => value is null ? [] : [value];
}

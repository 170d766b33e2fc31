using System.Globalization;
using System.Text.Json;
using NodaTime.Text;
using WideKeel.Core.Query;

namespace WideKeel.Core.Activity;

/// <summary>
/// A column of events with all that the product knows of it: its name in queries, tables and files, what it is called
/// on screen, how it is compared, and where an event has it.
/// </summary>
public sealed class EventColumn
{
    private readonly Func<ActivityEvent, string?> read;

    private EventColumn(string name, string header, IndexKind kind, Func<ActivityEvent, string?> read)
    {
        (Name, Header, this.read) = (name, header, read);
        Index = new(name, kind, _ => null);
    }

    public static EventColumn Time { get; } =
        new("time", "When", IndexKind.Instants, e => InstantPattern.ExtendedIso.Format(e.Time));

    public static EventColumn Id { get; } = new("id", "Id", IndexKind.Names, e => e.Id);

    public static EventColumn Channel { get; } = Coded("channel", "Channel", e => e.Channel);

    public static EventColumn Actor { get; } = Coded("actor", "Who", e => e.Actor);

    public static EventColumn ActorKind { get; } =
        Coded("actorKind", "Kind of actor", e => e.ActorKind.ToString().ToLowerInvariant());

    public static EventColumn Category { get; } = Coded("category", "Category", e => e.Category);

    public static EventColumn Action { get; } = Coded("action", "What", e => e.Action);

    public static EventColumn Object { get; } = Coded("object", "Object", e => e.Object);

    public static EventColumn Container { get; } = Coded("container", "Where", e => e.Container);

    public static EventColumn Target { get; } = Coded("target", "Given to", e => e.Target);

    public static EventColumn Address { get; } =
        new("address", "Address", IndexKind.Addresses, e => e.Address) { IsCoded = true };

    public static EventColumn Network { get; } = Coded("network", "Network", e => e.Network);

    public static EventColumn Country { get; } = Coded("country", "Country", e => e.Place?.Country);

    public static EventColumn Place { get; } = Coded("place", "Place", e => e.Place?.Name);

    public static EventColumn Device { get; } = Coded("device", "Device", e => e.Device);

    public static EventColumn Application { get; } = Coded("application", "Application", e => e.Application);

    public static EventColumn Outcome { get; } =
        Coded("outcome", "Outcome", e => e.Outcome?.ToString().ToLowerInvariant());

    public static EventColumn Code { get; } = Coded("code", "Code", e => e.Code);

    public static EventColumn Amount { get; } =
        new("amount", "Amount", IndexKind.Sizes, e => e.Amount?.ToString(CultureInfo.InvariantCulture));

    public static EventColumn Unit { get; } = Coded("unit", "Unit", e => e.Unit);

    public static EventColumn Title { get; } = Coded("title", "Title of the person", e => e.Title);

    /// <summary>In the order in which exports and the archive hold them.</summary>
    public static IReadOnlyList<EventColumn> All { get; } =
    [
        Time,
        Id,
        Channel,
        Actor,
        ActorKind,
        Category,
        Action,
        Object,
        Container,
        Target,
        Address,
        Network,
        Country,
        Place,
        Device,
        Application,
        Outcome,
        Code,
        Amount,
        Unit,
        Title,
    ];

    /// <summary>The words of all columns that hold names: what a term without an index looks at.</summary>
    public static QueryIndex Text { get; } = new("text", IndexKind.Words, _ => null) { IsSentence = true };

    /// <summary>What queries can ask of events.</summary>
    public static QueryVocabulary Vocabulary { get; } =
        new([.. All.Select(c => c.Index), Text], Text, hasDocdate: false);

    private static readonly Dictionary<QueryIndex, EventColumn> ByIndex = All.ToDictionary(c => c.Index);

    /// <summary>The columns whose words <see cref="Text"/> holds.</summary>
    public static IReadOnlyList<EventColumn> OfText { get; } =
    [Actor, Action, Object, Container, Target, Address, Network, Place, Device, Application, Code, Unit];

    public string Name { get; }

    /// <summary>As a table's head and a facet name it.</summary>
    public string Header { get; }

    public QueryIndex Index { get; }

    /// <summary>Its values repeat: they are kept once each, and can be counted.</summary>
    public bool IsCoded { get; private init; }

    /// <summary>The column with this name; null where there is none.</summary>
    public static EventColumn? Find(string name) => All.FirstOrDefault(c => c.Name == name);

    public static EventColumn Of(QueryIndex index) => ByIndex[index];

    /// <summary>The value as text; null where the event has none.</summary>
    public string? ValueOf(ActivityEvent e) => read(e);

    /// <summary>The texts and numbers that stand at the top of an event's details, by their names in lower case.</summary>
    public static IReadOnlyDictionary<string, string> FieldsOf(string? details)
    {
        Dictionary<string, string> fields = [];
        if (details is null)
        {
            return fields;
        }

        using var parsed = JsonDocument.Parse(details);
        foreach (var property in parsed.RootElement.EnumerateObject())
        {
            if (property.Value.ValueKind is JsonValueKind.String)
            {
                fields[property.Name.ToLowerInvariant()] = property.Value.GetString()!;
            }
            else if (property.Value.ValueKind is JsonValueKind.Number or JsonValueKind.True or JsonValueKind.False)
            {
                fields[property.Name.ToLowerInvariant()] = property.Value.GetRawText();
            }
        }

        return fields;
    }

    private static EventColumn Coded(string name, string header, Func<ActivityEvent, string?> read) =>
        new(name, header, IndexKind.Names, read) { IsCoded = true };
}

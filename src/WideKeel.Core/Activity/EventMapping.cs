using System.Globalization;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.Activity;

/// <summary>Which column of a table becomes which field of an event.</summary>
/// <param name="Columns">The field for each column; a column without one becomes a detail of its name.</param>
/// <param name="Constants">Fields that every row has alike.</param>
/// <param name="Words">For a field, what its values are called here.</param>
/// <param name="TimePattern">How times are written, as NodaTime's patterns say; ISO 8601 where it is left out.</param>
/// <param name="Zone">IANA name of the zone of times without an offset; UTC where it is left out.</param>
public sealed record EventMapping(
    IReadOnlyDictionary<string, string> Columns,
    IReadOnlyDictionary<string, string>? Constants = null,
    IReadOnlyDictionary<string, IReadOnlyDictionary<string, string>>? Words = null,
    string? TimePattern = null,
    string? Zone = null
)
{
    /// <summary>The fields that a column can become.</summary>
    public static IReadOnlySet<string> Fields { get; } =
        new HashSet<string>(StringComparer.OrdinalIgnoreCase)
        {
            "id",
            "time",
            "actor",
            "actorKind",
            "category",
            "action",
            "object",
            "container",
            "target",
            "address",
            "device",
            "application",
            "outcome",
            "code",
            "amount",
        };

    /// <summary>Null where it can be used.</summary>
    public Refusal? Check()
    {
        if (
            Columns.Values.Concat(Constants?.Keys ?? []).FirstOrDefault(f => f.Length > 0 && !Fields.Contains(f)) is
            { } unknown
        )
        {
            return Wrong($"an event has no field “{unknown}”; it has {string.Join(", ", Fields)}");
        }

        if (Columns.Values.Where(f => f.Length > 0).GroupBy(f => f).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            return Wrong($"two columns become “{twice.Key}”");
        }

        if (!Columns.Values.Contains("time"))
        {
            return Wrong("one column must become “time”");
        }

        if (Zone is { Length: > 0 } && DateTimeZoneProviders.Tzdb.GetZoneOrNull(Zone) is null)
        {
            return Wrong($"there is no time zone “{Zone}”");
        }

        try
        {
            return
                TimePattern is { Length: > 0 } pattern
                && LocalDateTimePattern.CreateWithInvariantCulture(pattern) is null
                ? Wrong("the pattern of times is empty")
                : null;
        }
        catch (InvalidPatternException e)
        {
            return Wrong($"“{TimePattern}” is no pattern of times: {e.Message}");
        }

        static Refusal Wrong(string what) =>
            new("mapping-malformed", "mapping", $"This mapping cannot be used: {what}.");
    }

    /// <summary>One row as an event.</summary>
    /// <param name="row">Values by the names of their columns.</param>
    public Outcome<ActivityEvent> Read(IReadOnlyDictionary<string, string> row, string original)
    {
        if (Columns.FirstOrDefault(c => c.Value.Length > 0 && !row.ContainsKey(c.Key)) is { Key: { } missing })
        {
            return new Refusal("column-missing", missing, $"The column “{missing}” is missing.");
        }

        var fields = new Dictionary<string, string>(Constants ?? new Dictionary<string, string>());
        var details = new JsonObject();
        foreach (var (column, value) in row.Where(c => c.Value.Length > 0))
        {
            if (Columns.GetValueOrDefault(column) is { Length: > 0 } field)
            {
                fields[field] = Words?.GetValueOrDefault(field)?.GetValueOrDefault(value) ?? value;
            }
            else
            {
                details[column] = value;
            }
        }

        if (fields.TryGetValue("time", out var written))
        {
            if (TimeOf(written) is not { } time)
            {
                return new Refusal("time-malformed", "time", $"“{written}” is no time as the mapping says.");
            }

            fields["time"] = EventLine.Text(time);
        }

        return Event(fields, original, details);
    }

    private Instant? TimeOf(string written)
    {
        if (TimePattern is not { Length: > 0 } && EventLine.Moment(written) is { } moment)
        {
            return moment;
        }

        var pattern = TimePattern is { Length: > 0 }
            ? LocalDateTimePattern.CreateWithInvariantCulture(TimePattern)
            : LocalDateTimePattern.ExtendedIso;
        var zone = Zone is { Length: > 0 } ? DateTimeZoneProviders.Tzdb[Zone] : DateTimeZone.Utc;
        return pattern.Parse(written) is { Success: true, Value: var local }
            ? local.InZoneLeniently(zone).ToInstant()
            : null;
    }

    /// <summary>An event of fields as texts; whoever reads a form of lines ends here.</summary>
    /// <param name="fields">By their names; the time in ISO 8601.</param>
    public static Outcome<ActivityEvent> Event(
        IReadOnlyDictionary<string, string> fields,
        string original,
        JsonObject details
    )
    {
        if (fields.GetValueOrDefault("time") is not { } written || EventLine.Moment(written) is not { } time)
        {
            return new Refusal("time-missing", "time", "It has no time.");
        }

        var outcome = fields.GetValueOrDefault("outcome");
        if (outcome is not null && !Enum.TryParse<EventOutcome>(outcome, ignoreCase: true, out _))
        {
            return Wrong("outcome", outcome, "success, failure or interrupted");
        }

        var kind = fields.GetValueOrDefault("actorKind");
        if (kind is not null && !Enum.TryParse<ActorKind>(kind, ignoreCase: true, out _))
        {
            return Wrong("actorKind", kind, "person, service or unknown");
        }

        decimal? amount = null;
        if (fields.GetValueOrDefault("amount") is { } number)
        {
            if (!decimal.TryParse(number, NumberStyles.Float, CultureInfo.InvariantCulture, out var read))
            {
                return Wrong("amount", number, "a number");
            }

            amount = read;
        }

        return new ActivityEvent
        {
            Id = fields.GetValueOrDefault("id") ?? EventLine.IdOf(original),
            Time = time,
            Actor = fields.GetValueOrDefault("actor"),
            ActorKind = kind is null ? ActorKind.Unknown : Enum.Parse<ActorKind>(kind, ignoreCase: true),
            Category = fields.GetValueOrDefault("category"),
            Action = fields.GetValueOrDefault("action")?.ToLowerInvariant(),
            Object = fields.GetValueOrDefault("object"),
            Container = fields.GetValueOrDefault("container"),
            Target = fields.GetValueOrDefault("target"),
            Address = fields.GetValueOrDefault("address"),
            Device = fields.GetValueOrDefault("device"),
            Application = fields.GetValueOrDefault("application"),
            Outcome = outcome is null ? null : Enum.Parse<EventOutcome>(outcome, ignoreCase: true),
            Code = fields.GetValueOrDefault("code"),
            Amount = amount,
            Details = details.Count == 0 ? null : details.ToJsonString(),
            Original = original,
        };

        static Refusal Wrong(string field, string value, string what) =>
            new("field-malformed", field, $"{field}: “{value}” is not {what}.");
    }
}

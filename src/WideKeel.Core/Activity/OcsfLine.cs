using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;

namespace WideKeel.Core.Activity;

/// <summary>
/// Events in the shape of the Open Cybersecurity Schema Framework, in and out. Numbers of classes and activities are
/// those of OCSF 1.x, written down from memory.
/// </summary>
public static class OcsfLine
{
    private const int Success = 1;
    private const int Failure = 2;
    private const int Other = 99;

    private static readonly (int Class, int Activity, string Action)[] Actions =
    [
        (3002, 1, "sign-in"),
        (3002, 2, "sign-out"),
        (3001, 1, "account.create"),
        (3001, 5, "account.disable"),
        (3005, 1, "permission.add"),
        (3005, 2, "permission.remove"),
        (3006, 3, "group.member-add"),
        (3006, 4, "group.member-remove"),
        (1001, 1, "file.write"),
        (1001, 2, "file.read"),
        (1001, 4, "file.delete"),
        (1001, 5, "file.move"),
        (4009, 1, "mail.send"),
        (6001, 2, "file.download"),
    ];

    /// <summary>Whether an object is in this shape.</summary>
    public static bool Is(string line) => line.Contains("\"class_uid\"", StringComparison.Ordinal);

    // Long because it is a table: one field of ours a line, with where the schema may have it.
    public static Outcome<ActivityEvent> Read(string line)
    {
        JsonObject root;
        try
        {
            root = JsonNode.Parse(line, null, JsonPlace.Strict) as JsonObject ?? [];
        }
        catch (JsonException e)
        {
            return new Refusal(
                "line-malformed",
                null,
                string.Create(CultureInfo.InvariantCulture, $"This is no JSON, at byte {e.BytePositionInLine + 1}.")
            );
        }

        if (root["time"] is not JsonValue written || !written.TryGetValue<long>(out var time))
        {
            return new Refusal("time-missing", "time", "time: milliseconds since 1970 are expected.");
        }

        var (type, activity) = (Whole("class_uid"), Whole("activity_id"));
        return new ActivityEvent
        {
            Id = Text("metadata.uid") ?? EventLine.IdOf(line),
            Time = Instant.FromUnixTimeMilliseconds(Math.Clamp(time, -62_135_596_800_000, 253_402_300_799_999)),
            Actor =
                Text("actor.user.email_addr")
                ?? Text("actor.user.name")
                ?? Text("user.email_addr")
                ?? Text("user.name"),
            Category = Text("category_name")?.ToLowerInvariant(),
            Action =
                Actions.FirstOrDefault(a => a.Class == type && a.Activity == activity).Action
                ?? string.Create(CultureInfo.InvariantCulture, $"ocsf.{type}.{activity}"),
            Object = Text("file.path") ?? Text("file.name") ?? Text("web_resources.0.name") ?? Text("resource.name"),
            Container = Text("file.parent_folder") ?? Text("resource.group.name"),
            Target =
                Text("group.name")
                ?? Text("email.to.0")
                ?? (Text("actor.user.name") is null ? null : Text("user.name")),
            Address = Text("src_endpoint.ip") ?? Text("device.ip"),
            Device = Text("device.hostname") ?? Text("device.name") ?? Text("src_endpoint.hostname"),
            Application = Text("metadata.product.name") ?? Text("service.name"),
            Outcome = Whole("status_id") switch
            {
                Success => EventOutcome.Success,
                Failure => EventOutcome.Failure,
                Other => EventOutcome.Interrupted,
                _ => null,
            },
            Code = Text("status_code"),
            Amount =
                Text("file.size") is { } size
                && decimal.TryParse(size, NumberStyles.Float, CultureInfo.InvariantCulture, out var bytes)
                    ? bytes
                    : null,
            Details = root["unmapped"] is JsonObject unmapped ? unmapped.ToJsonString() : null,
            Original = line,
        };

        string? Text(string path)
        {
            JsonNode? at = root;
            foreach (var step in path.Split('.'))
            {
                at =
                    at is JsonObject o ? o[step]
                    : at is JsonArray list && int.TryParse(step, out var i) && i < list.Count ? list[i]
                    : null;
            }

            return at is JsonValue value ? value.ToString() : null;
        }

        int Whole(string path) =>
            int.TryParse(Text(path), NumberStyles.Integer, CultureInfo.InvariantCulture, out var number) ? number : 0;
    }

    /// <summary>An event in this shape; what the shape has no place for stands in <c>unmapped</c>.</summary>
    public static JsonObject Write(ActivityEvent e)
    {
        var known = Actions.FirstOrDefault(a => a.Action == e.Action);
        var written = new JsonObject
        {
            ["time"] = e.Time.ToUnixTimeMilliseconds(),
            ["class_uid"] = known.Class,
            ["activity_id"] = known.Action is null ? 99 : known.Activity,
            ["activity_name"] = e.Action,
            ["type_uid"] = (known.Class * 100) + (known.Action is null ? 99 : known.Activity),
            ["metadata"] = new JsonObject
            {
                ["uid"] = e.Id,
                ["version"] = "1.3.0",
                ["product"] = new JsonObject { ["name"] = e.Application ?? e.Channel },
            },
            ["status_id"] = e.Outcome switch
            {
                EventOutcome.Success => Success,
                EventOutcome.Failure => Failure,
                EventOutcome.Interrupted => Other,
                _ => 0,
            },
        };
        Add("status_code", e.Code);
        Nested("actor", "user", ("name", e.Actor));
        Object("file", ("path", e.Object), ("parent_folder", e.Container));
        Object("src_endpoint", ("ip", e.Address));
        Object("device", ("hostname", e.Device));
        Object("user", ("name", e.Target));
        written["unmapped"] = EventLine.Write(e with { Original = null });
        return written;

        void Add(string name, string? value)
        {
            if (value is not null)
            {
                written[name] = value;
            }
        }

        void Nested(string name, string within, (string, string?) value)
        {
            if (value.Item2 is not null)
            {
                written[name] = new JsonObject { [within] = new JsonObject { [value.Item1] = value.Item2 } };
            }
        }

        void Object(string name, params (string Name, string? Value)[] values)
        {
            var there = values.Where(v => v.Value is not null).ToList();
            if (there.Count > 0)
            {
                written[name] = new JsonObject(there.Select(v => KeyValuePair.Create(v.Name, (JsonNode?)v.Value)));
            }
        }
    }
}

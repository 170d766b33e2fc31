using System.Globalization;
using System.Text.Json.Nodes;

namespace WideKeel.Core.Activity;

/// <summary>
/// A message of syslog, RFC 5424 §6. Parameters of structured data that are named as fields of an event become them;
/// what is left, and the message, becomes details. A message that is an object of JSON is an event of ours in syslog's
/// envelope.
/// </summary>
public static class SyslogLine
{
    /// <summary>Names that many senders use for our fields.</summary>
    private static readonly Dictionary<string, string> Aliases = new(StringComparer.OrdinalIgnoreCase)
    {
        ["user"] = "actor",
        ["src"] = "address",
        ["ip"] = "address",
        ["result"] = "outcome",
        ["app"] = "application",
    };

    public static Outcome<ActivityEvent> Read(string line)
    {
        var at = 0;
        if (Priority(line, ref at) is not { } priority)
        {
            return Wrong(at, "a priority such as <165>1 is expected at its beginning");
        }

        var header = new string[5];
        for (var i = 0; i < header.Length; i++)
        {
            if (at >= line.Length || line.IndexOf(' ', at) is var end && end <= at)
            {
                return Wrong(at, "time, host, application, process and message id are expected, with spaces between");
            }

            header[i] = line[at..end];
            at = end + 1;
        }

        Dictionary<string, string> parameters = new(StringComparer.OrdinalIgnoreCase);
        if (!StructuredData(line, ref at, parameters))
        {
            return Wrong(at, "structured data is expected: “-” or [id name=\"value\"]");
        }

        var message = at < line.Length ? line[(at + 1)..].TrimStart('\uFEFF') : "";
        if (message.StartsWith('{'))
        {
            var within = EventLine.Read(message);
            return within.Refused ? within.Refusal! : within.Value with { Original = line };
        }

        if (EventLine.Moment(header[0]) is not { } time)
        {
            return Wrong(0, $"“{header[0]}” is no time (RFC 3339)");
        }

        return Event(line, time, priority, header, parameters, message);
    }

    private static Outcome<ActivityEvent> Event(
        string line,
        NodaTime.Instant time,
        int priority,
        string[] header,
        Dictionary<string, string> parameters,
        string message
    )
    {
        var fields = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase)
        {
            ["time"] = EventLine.Text(time),
        };
        var details = new JsonObject { ["facility"] = priority / 8, ["severity"] = priority % 8 };
        Put("device", header[1]);
        Put("application", header[2]);
        Detail("process", header[3]);
        Put("action", header[4]);
        foreach (var (name, value) in parameters)
        {
            var field = Aliases.GetValueOrDefault(name, name);
            if (EventMapping.Fields.Contains(field))
            {
                fields[field] = value;
            }
            else
            {
                Detail(name, value);
            }
        }

        Detail("message", message);
        return EventMapping.Event(fields, line, details);

        void Put(string field, string value)
        {
            if (value != "-")
            {
                fields[field] = value;
            }
        }

        void Detail(string name, string value)
        {
            if (value is not ("-" or ""))
            {
                details[name] = value;
            }
        }
    }

    /// <summary>Priority and version: <c>&lt;165&gt;1 </c>; the priority is 0 to 191.</summary>
    private static int? Priority(string line, ref int at)
    {
        if (!line.StartsWith('<') || line.IndexOf('>', StringComparison.Ordinal) is var end && end is < 2 or > 4)
        {
            return null;
        }

        at = end + 3;
        return
            int.TryParse(line.AsSpan(1, end - 1), NumberStyles.None, CultureInfo.InvariantCulture, out var priority)
            && priority <= 191
            && line.AsSpan(end + 1).StartsWith("1 ")
            ? priority
            : null;
    }

    /// <summary>RFC 5424 §6.3; within a value, \" \\ and \] are escapes. Ends on the space or the end after it.</summary>
    private static bool StructuredData(string line, ref int at, Dictionary<string, string> parameters)
    {
        if (at < line.Length && line[at] == '-')
        {
            at++;
            return at == line.Length || line[at] == ' ';
        }

        while (at < line.Length && line[at] == '[')
        {
            at++;
            while (at < line.Length && line[at] is not (' ' or ']'))
            {
                at++;
            }

            while (at < line.Length && line[at] == ' ')
            {
                at++;
                if (!Parameter(line, ref at, parameters))
                {
                    return false;
                }
            }

            if (at >= line.Length || line[at++] != ']')
            {
                return false;
            }

            if (at == line.Length || line[at] == ' ')
            {
                return true;
            }
        }

        return false;
    }

    private static bool Parameter(string line, ref int at, Dictionary<string, string> parameters)
    {
        var equals = line.IndexOf("=\"", at, StringComparison.Ordinal);
        if (equals < 0)
        {
            return false;
        }

        var name = line[at..equals];
        var value = new System.Text.StringBuilder();
        for (at = equals + 2; at < line.Length && line[at] != '"'; at++)
        {
            if (line[at] == '\\' && at + 1 < line.Length && line[at + 1] is '"' or '\\' or ']')
            {
                at++;
            }

            value.Append(line[at]);
        }

        parameters[name] = value.ToString();
        return at++ < line.Length;
    }

    private static Refusal Wrong(int at, string what) =>
        new(
            "line-malformed",
            null,
            string.Create(
                CultureInfo.InvariantCulture,
                $"This is no message of RFC 5424, at character {at + 1}: {what}."
            )
        );
}

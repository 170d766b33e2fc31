using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Ledger;

namespace WideKeel.Core.Activity;

/// <summary>An event as a line of our own JSON Lines, in and out.</summary>
public static class EventLine
{
    /// <summary>Characters of one line; longer ones are refused.</summary>
    public const int MostCharacters = 1_000_000;

    private static readonly OffsetDateTimePattern WithOffset = OffsetDateTimePattern.ExtendedIso;

    /// <summary>
    /// Reads one line. The fields that arrival derives (network, unit, title, channel) are taken as they stand; whoever
    /// takes events in sets them anew.
    /// </summary>
    public static Outcome<ActivityEvent> Read(string line)
    {
        try
        {
            using var document = JsonDocument.Parse(line, JsonPlace.Strict);
            return Read(new JsonPlace(document.RootElement, ""), line);
        }
        catch (JsonException e)
        {
            return new Refusal(
                "line-malformed",
                null,
                string.Create(CultureInfo.InvariantCulture, $"This is no JSON, at byte {e.BytePositionInLine + 1}.")
            );
        }
        catch (JsonPlaceException e)
        {
            return e.Refusal;
        }
    }

    /// <summary>A moment in ISO 8601 with Z or an offset, cut to the millisecond; null where the text is none.</summary>
    public static Instant? Moment(string text) =>
        WithOffset.Parse(text) is { Success: true, Value: var at }
            ? Instant.FromUnixTimeMilliseconds(at.ToInstant().ToUnixTimeMilliseconds())
            : null;

    /// <summary>A moment as the archive and the API write it: UTC, always to the millisecond.</summary>
    public static string Text(Instant moment) => Milliseconds.Format(moment);

    /// <summary>The id of a line that brings none of its own.</summary>
    public static string IdOf(string line) => ContentHash.Of(line);

    /// <summary>The event as an object; what is unknown is left out. Without <c>received</c>, which is not sealed.</summary>
    public static JsonObject Write(ActivityEvent e)
    {
        var written = new JsonObject { ["id"] = e.Id, ["time"] = Text(e.Time) };
        Add("channel", e.Channel);
        Add("actor", e.Actor);
        Add("actorKind", e.ActorKind == ActorKind.Unknown ? null : e.ActorKind.ToString().ToLowerInvariant());
        Add("category", e.Category);
        Add("action", e.Action);
        Add("object", e.Object);
        Add("container", e.Container);
        Add("target", e.Target);
        Add("address", e.Address);
        Add("network", e.Network);
        if (e.Place is { } place)
        {
            var where = new JsonObject();
            Set(where, "country", place.Country);
            Set(where, "name", place.Name);
            Set(where, "lat", place.Latitude);
            Set(where, "lon", place.Longitude);
            written["place"] = where;
        }

        Add("device", e.Device);
        Add("application", e.Application);
        Add("outcome", e.Outcome?.ToString().ToLowerInvariant());
        Add("code", e.Code);
        Set(written, "amount", e.Amount is { } amount ? (double)amount : null);
        if (e.Details is not null)
        {
            written["details"] = JsonNode.Parse(e.Details);
        }

        Add("unit", e.Unit);
        Add("title", e.Title);
        Add("original", e.Original);
        return written;

        void Add(string name, string? value) => Set(written, name, value);

        static void Set(JsonObject to, string name, JsonNode? value)
        {
            if (value is not null)
            {
                to[name] = value;
            }
        }
    }

    /// <summary>The leaf of the event in its segment's tree: RFC 6962 §2.1 over its RFC 8785 form.</summary>
    public static byte[] LeafOf(ActivityEvent e) => MerkleTree.LeafHash(CanonicalJson.Serialize(Write(e)));

    private static ActivityEvent Read(JsonPlace at, string line)
    {
        var time =
            Moment(at.Needed("time"))
            ?? throw at.Wrong("time", $"“{at.Text("time")}” is no moment such as 2026-06-01T08:04:59.000Z");
        var place = at.Within("place") is not { } where
            ? null
            : new EventPlace(
                where.Text("country"),
                where.Text("name"),
                Degrees(where, "lat", 90),
                Degrees(where, "lon", 180)
            );
        return new()
        {
            Id = at.Text("id") is { Length: > 0 } id ? id : IdOf(line),
            Time = time,
            Channel = at.Text("channel"),
            Actor = at.Text("actor"),
            ActorKind = at.Word("actorKind", ActorKind.Unknown),
            Category = at.Text("category"),
            Action = at.Text("action"),
            Object = at.Text("object"),
            Container = at.Text("container"),
            Target = at.Text("target"),
            Address = at.Text("address"),
            Network = at.Text("network"),
            Place = place,
            Device = at.Text("device"),
            Application = at.Text("application"),
            Outcome = at.Has("outcome") ? at.Word("outcome", EventOutcome.Success) : null,
            Code = at.Text("code"),
            Amount = at.Number("amount"),
            Details = at.Within("details") is null ? null : at.Raw("details"),
            Unit = at.Text("unit"),
            Title = at.Text("title"),
            Original = line,
        };
    }

    private static double? Degrees(JsonPlace at, string field, int most) =>
        at.Number(field) is not { } degrees ? null
        : Math.Abs(degrees) <= most ? (double)degrees
        : throw at.Wrong(field, string.Create(CultureInfo.InvariantCulture, $"degrees lie between −{most} and {most}"));

    private static readonly InstantPattern Milliseconds = InstantPattern.CreateWithInvariantCulture(
        "uuuu-MM-dd'T'HH:mm:ss.fff'Z'"
    );
}

using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.Activity;

/// <summary>What the ledger says of a sealed file; the entry's verb is <see cref="Verb"/>.</summary>
/// <param name="Root">Of the tree over its events' leaves, as hexadecimal digits.</param>
/// <param name="FileHash">SHA-256 of the file.</param>
public sealed record SealedSegment(
    string Channel,
    LocalDate Day,
    int Number,
    long Events,
    Instant First,
    Instant Last,
    string Root,
    string FileHash
)
{
    public const string Verb = "segment-sealed";

    /// <summary>The verb of the entry that says that a file's time was up and it went.</summary>
    public const string RemovedVerb = "segment-removed";

    /// <summary>As sentences name it.</summary>
    public string Name => $"{Channel}/day={LocalDatePattern.Iso.Format(Day)}/{Number}.parquet";

    public JsonObject ToJson() =>
        new()
        {
            ["channel"] = Channel,
            ["day"] = LocalDatePattern.Iso.Format(Day),
            ["number"] = Number,
            ["events"] = Events,
            ["first"] = EventLine.Text(First),
            ["last"] = EventLine.Text(Last),
            ["root"] = Root,
            ["sha256"] = FileHash,
        };

    /// <summary>Null where the object is none.</summary>
    public static SealedSegment? Read(JsonNode? node)
    {
        try
        {
            return node is null
                ? null
                : new(
                    (string)node["channel"]!,
                    LocalDatePattern.Iso.Parse((string)node["day"]!).Value,
                    (int)node["number"]!,
                    (long)node["events"]!,
                    EventLine.Moment((string)node["first"]!)!.Value,
                    EventLine.Moment((string)node["last"]!)!.Value,
                    (string)node["root"]!,
                    (string)node["sha256"]!
                );
        }
        catch (Exception e) when (e is InvalidOperationException or ArgumentNullException or NullReferenceException)
        {
            return null;
        }
    }
}

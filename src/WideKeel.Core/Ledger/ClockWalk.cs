using System.Globalization;
using System.Text;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.Ledger;

/// <summary>
/// Looks at the times of entries in their order. Entries are only appended, so a time that is earlier than the one before
/// it says that the clock of the machine was set back, by whom ever and for whatever reason.
/// </summary>
public sealed class ClockWalk
{
    /// <summary>Clocks that are kept in step by NTP (RFC 5905) go back by less, if at all.</summary>
    public static readonly Duration Tolerance = Duration.FromSeconds(2);

    private const int MostRemarks = 100;

    private readonly List<string> remarks = [];
    private Instant latest = Instant.MinValue;

    public IReadOnlyList<string> Remarks => remarks;

    public void Next(in StoredEntry entry)
    {
        if (TimeOf(entry.Body) is not { } at)
        {
            return;
        }

        if (latest != Instant.MinValue && WentBack(latest, at) && remarks.Count < MostRemarks)
        {
            remarks.Add(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"The clock went back before entry {entry.Sequence}: from {latest} to {at}."
                )
            );
        }

        // From there on the new time counts: one step back is said once.
        latest = at;
    }

    public static bool WentBack(Instant before, Instant now) => now + Tolerance < before;

    /// <summary>The time of an entry as its text says; null where it says none.</summary>
    public static Instant? TimeOf(string body)
    {
        var reader = new Utf8JsonReader(Encoding.UTF8.GetBytes(body));
        try
        {
            while (reader.Read())
            {
                if (reader.TokenType != JsonTokenType.PropertyName || reader.CurrentDepth != 1)
                {
                    continue;
                }

                var isTime = reader.ValueTextEquals("at"u8);
                reader.Read();
                if (isTime)
                {
                    return
                        reader.TokenType == JsonTokenType.String
                        && InstantPattern.ExtendedIso.Parse(reader.GetString()!) is { Success: true } read
                        ? read.Value
                        : null;
                }

                reader.Skip();
            }
        }
        catch (JsonException)
        {
            // The verification itself names what is wrong with such an entry.
        }

        return null;
    }
}

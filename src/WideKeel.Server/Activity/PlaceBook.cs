using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Store;

namespace WideKeel.Server.Activity;

/// <summary>The table of places, read once and kept until another is loaded: it may have some hundred thousand ranges.</summary>
public sealed class PlaceBook
{
    private readonly Lock turn = new();
    private PlaceTable? known;
    private int loaded;

    public async Task<PlaceTable> OfAsync(WideKeelDb db, CancellationToken cancel)
    {
        int before;
        lock (turn)
        {
            if (known is not null)
            {
                return known;
            }

            before = loaded;
        }

        var rows = await db.Places.AsNoTracking().ToListAsync(cancel);
        PlaceTable table = new(rows.Select(p => (p.Range, new EventPlace(p.Country, p.Name, p.Latitude, p.Longitude))));
        lock (turn)
        {
            // What was read while another table was loaded may be the former one, and is not kept.
            known = before == loaded ? table : known;
        }

        return table;
    }

    /// <summary>Another table is there.</summary>
    public void Forget()
    {
        lock (turn)
        {
            loaded++;
            known = null;
        }
    }
}

/// <summary>
/// Places from a MaxMind DB file (its open format, version 2.0), where its records have the usual fields: the country's
/// <c>iso_code</c>, the city's <c>names</c> in English, and a <c>location</c>.
/// </summary>
internal static class PlaceFile
{
    /// <summary>Its ranges; a refusal where it is no such file, or has more than so many.</summary>
    public static async Task<Outcome<IReadOnlyList<PlaceView>>> ReadAsync(Stream file, int most)
    {
        try
        {
            using var reader = await MaxMind.Db.Reader.CreateAsync(file);
            List<PlaceView> places = [];
            foreach (var node in reader.FindAll<Dictionary<string, object>>(null, 16_384))
            {
                if (Country(node.Data) is not { Length: > 0 } country)
                {
                    continue;
                }

                if (places.Count == most)
                {
                    return new Refusal(
                        "places-too-many",
                        "places",
                        $"At most {Wording.Number(most)} ranges are taken."
                    );
                }

                var location = Part(node.Data, "location");
                places.Add(
                    new(
                        Range(node.Start, node.PrefixLength),
                        country,
                        Text(Part(Part(node.Data, "city"), "names"), "en") ?? "",
                        Real(location, "latitude"),
                        Real(location, "longitude")
                    )
                );
            }

            return places.Count > 0
                ? places
                : new Refusal("places-malformed", "places", "No record of this file says a country.");
        }
        catch (Exception e)
            when (e
                    is MaxMind.Db.InvalidDatabaseException
                        or MaxMind.Db.DeserializationException
                        or InvalidDataException
                        or ArgumentException
                        or OverflowException
                        or IndexOutOfRangeException
            )
        {
            return new Refusal(
                "places-malformed",
                "places",
                $"This is no MaxMind DB file that can be read: {e.Message}"
            );
        }
    }

    /// <summary>An IPv4 range of a tree for IPv6 stands under 96 bits of zero there.</summary>
    private static string Range(System.Net.IPAddress start, int length) =>
        start.IsIPv4MappedToIPv6 ? $"{start.MapToIPv4()}/{length - 96}"
        : start.AddressFamily == System.Net.Sockets.AddressFamily.InterNetwork && length > 32 ? $"{start}/{length - 96}"
        : $"{start}/{length}";

    private static string? Country(Dictionary<string, object> record) =>
        Text(Part(record, "country"), "iso_code") ?? Text(Part(record, "registered_country"), "iso_code");

    private static Dictionary<string, object>? Part(Dictionary<string, object>? record, string name) =>
        record?.GetValueOrDefault(name) as Dictionary<string, object>;

    private static string? Text(Dictionary<string, object>? record, string name) =>
        record?.GetValueOrDefault(name) as string;

    private static double? Real(Dictionary<string, object>? record, string name) =>
        record?.GetValueOrDefault(name) is double number ? number : null;
}

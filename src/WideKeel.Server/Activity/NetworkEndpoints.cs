using System.Globalization;
using System.Text.Json.Nodes;
using CsvHelper;
using CsvHelper.Configuration;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <param name="Ranges">CIDR.</param>
/// <param name="Egress">Many people leave through it, from wherever they are.</param>
public sealed record NetworkView(string Name, IReadOnlyList<string> Ranges, bool Egress);

/// <param name="Country">ISO 3166-1 alpha-2.</param>
public sealed record PlaceView(string Range, string Country, string Name, double? Latitude, double? Longitude);

/// <summary>The networks that the organisation names, and where addresses are: what events are given on arrival.</summary>
public static class NetworkEndpoints
{
    private const int MostPlaces = 200_000;

    /// <summary>A table of places for all addresses has some hundred thousand lines.</summary>
    private const long MostTableBytes = 60_000_000;

    public static void MapNetworks(this IEndpointRouteBuilder api)
    {
        api.MapGet("/networks", List).Requires(Right.ManageChannels);
        api.MapPut("/networks", Put).Requires(Right.ManageChannels);
        api.MapPut("/places", PutPlaces).Requires(Right.ManageChannels);
        api.MapPut("/places/csv", PutPlacesCsv).Requires(Right.ManageChannels).TakesUpTo(MostTableBytes);
        api.MapPut("/places/mmdb", PutPlacesFile).Requires(Right.ManageChannels).TakesUpTo(MostTableBytes);
    }

    /// <summary>A stored network as the core knows it.</summary>
    internal static NamedNetwork Named(NetworkRow row) =>
        new(
            row.Name,
            [.. row.Ranges.Split(' ').Select(Cidr.Read).Where(r => r is not null).Select(r => r!.Value)],
            row.Egress
        );

    private static async Task<Reply<IReadOnlyList<NetworkView>>> List(WideKeelDb db, CancellationToken cancel) =>
        (Outcome<IReadOnlyList<NetworkView>>)
            (await db.Networks.AsNoTracking().OrderBy(n => n.Name).ToListAsync(cancel))
                .Select(n => new NetworkView(n.Name, n.Ranges.Split(' '), n.Egress))
                .ToList();

    private static async Task<Reply<Done>> Put(
        IReadOnlyList<NetworkView> networks,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    )
    {
        foreach (var network in networks)
        {
            if (string.IsNullOrWhiteSpace(network.Name) || network.Ranges.Count == 0)
            {
                return new Refusal("network-malformed", "networks", "A network needs a name and at least one range.");
            }

            if (network.Ranges.FirstOrDefault(r => Cidr.Read(r) is null) is { } wrong)
            {
                return new Refusal("network-malformed", "networks", $"“{wrong}” is no network such as 192.0.2.0/24.");
            }
        }

        if (networks.GroupBy(n => n.Name).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            return new Refusal("network-malformed", "networks", $"Two networks are named “{twice.Key}”.");
        }

        return await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                await session.Db.Networks.ExecuteDeleteAsync(cancel);
                session.Db.Networks.AddRange(
                    networks.Select(n => new NetworkRow
                    {
                        Name = n.Name,
                        Ranges = string.Join(' ', n.Ranges),
                        Egress = n.Egress,
                    })
                );
                session.Record(
                    "networks-named",
                    new("networks", "1"),
                    after: new JsonObject { ["networks"] = string.Join(", ", networks.Select(n => n.Name)) }
                );
                return new Done();
            },
            cancel
        );
    }

    /// <summary>The same as a table with the columns range, country, name, lat and lon.</summary>
    private static async Task<Reply<Done>> PutPlacesCsv(PlaceBook book, [AsParameters] ApiContext context)
    {
        using var text = new StreamReader(context.Http.Request.Body);
        using var csv = new CsvReader(
            new StringReader(await text.ReadToEndAsync(context.Cancel)),
            new CsvConfiguration(CultureInfo.InvariantCulture) { DetectDelimiter = true, MissingFieldFound = null }
        );
        try
        {
            return await PutPlaces([.. csv.GetRecords<PlaceLine>().Select(Place)], book, context);
        }
        catch (CsvHelperException e)
        {
            return new Refusal(
                "places-malformed",
                "places",
                $"Line {Wording.Number(csv.Parser.RawRow)}: {e.Message.Split('\n')[0].TrimEnd('.', '\r')}. "
                    + "A table of range, country, name, lat and lon is expected."
            );
        }

        static PlaceView Place(PlaceLine l) => new(l.range, l.country, l.name, l.lat, l.lon);
    }

    // The columns as the file names them.
#pragma warning disable IDE1006
    private sealed record PlaceLine(string range, string country, string name, double? lat, double? lon);
#pragma warning restore IDE1006

    /// <summary>The same as a MaxMind DB file.</summary>
    private static async Task<Reply<Done>> PutPlacesFile(PlaceBook book, [AsParameters] ApiContext context)
    {
        using var file = new MemoryStream();
        await context.Http.Request.Body.CopyToAsync(file, context.Cancel);
        file.Position = 0;
        var places = await PlaceFile.ReadAsync(file, MostPlaces);
        return places.Refusal is { } refusal ? refusal : await PutPlaces(places.Value, book, context);
    }

    private static async Task<Reply<Done>> PutPlaces(
        IReadOnlyList<PlaceView> places,
        PlaceBook book,
        [AsParameters] ApiContext context
    )
    {
        if (places.Count > MostPlaces)
        {
            return new Refusal("places-too-many", "places", $"At most {Wording.Number(MostPlaces)} ranges are taken.");
        }

        if (places.FirstOrDefault(p => Cidr.Read(p.Range) is null) is { } wrong)
        {
            return new Refusal("network-malformed", "places", $"“{wrong.Range}” is no network such as 192.0.2.0/24.");
        }

        var done = await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                await session.Db.Places.ExecuteDeleteAsync(context.Cancel);
                session.Db.Places.AddRange(
                    places
                        .DistinctBy(p => p.Range)
                        .Select(p => new PlaceRow
                        {
                            Range = p.Range,
                            Country = p.Country,
                            Name = p.Name,
                            Latitude = p.Latitude,
                            Longitude = p.Longitude,
                        })
                );
                session.Record(
                    "places-loaded",
                    new("networks", "1"),
                    after: new JsonObject { ["ranges"] = places.Count }
                );
                return new Done();
            },
            context.Cancel
        );
        book.Forget();
        return done;
    }
}

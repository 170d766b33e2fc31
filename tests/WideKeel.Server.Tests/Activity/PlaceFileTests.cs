using System.Buffers.Binary;
using System.Net;
using System.Text;

namespace WideKeel.Server.Tests.Activity;

/// <summary>
/// Places from a MaxMind DB file. The file is written here by the published format ("MaxMind DB File Format Specification",
/// version 2.0): a binary tree of records of 32 bits, 16 bytes of zero, the data, the metadata behind its marker.
/// </summary>
public sealed class PlaceFileTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api admin = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        admin = await product.SignInAsync("jonas");
    }

    public async ValueTask DisposeAsync()
    {
        admin.Dispose();
        await product.DisposeAsync();
    }

    private static readonly object Sampleholm = new Dictionary<string, object>
    {
        ["country"] = new Dictionary<string, object> { ["iso_code"] = "SE" },
        ["city"] = new Dictionary<string, object>
        {
            ["names"] = new Dictionary<string, object> { ["en"] = "Sampleholm" },
        },
        ["location"] = new Dictionary<string, object> { ["latitude"] = 59.5, ["longitude"] = 18.25 },
    };

    private async Task<HttpResponseMessage> LoadAsync(byte[] file) =>
        await admin.Http.PutAsync(new Uri("places/mmdb", UriKind.Relative), new ByteArrayContent(file), stop);

    private async Task<string?> PlaceOfAsync(string address)
    {
        var key = await Channels.KeyAsync(admin, await Channels.MakeAsync(admin, "gateway"));
        await Channels.SendAsync(
            product,
            "gateway",
            key,
            Channels.Line("e1", "2026-06-14T08:00:00Z", "sign-in", rest: $",\"address\":\"{address}\"")
        );
        using var db = product.Database();
        using var analyst = await product.SignInAsync("sunniva");
        var e = (await analyst.GetOk("events")).GetProperty("events")[0];
        return e.TryGetProperty("place", out var place) ? place.GetString() : null;
    }

    [Fact]
    public async Task An_address_gets_the_place_of_its_range()
    {
        (await LoadAsync(Mmdb("192.0.2.0", 24, Sampleholm))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await PlaceOfAsync("192.0.2.77")).ShouldBe("Sampleholm");
    }

    [Fact]
    public async Task An_address_beyond_the_range_gets_none()
    {
        await LoadAsync(Mmdb("192.0.2.0", 24, Sampleholm));
        (await PlaceOfAsync("192.0.3.1")).ShouldBeNull();
    }

    [Fact]
    public async Task What_the_record_says_is_kept_with_the_range()
    {
        await LoadAsync(Mmdb("198.51.100.0", 25, Sampleholm));
        using var db = product.Database();
        var place = db.Places.Single();
        (place.Range, place.Country, place.Name, place.Latitude, place.Longitude).ShouldBe(
            ("198.51.100.0/25", "SE", "Sampleholm", 59.5, 18.25)
        );
    }

    [Fact]
    public async Task A_file_of_another_kind_is_refused_and_the_former_places_stay()
    {
        await LoadAsync(Mmdb("192.0.2.0", 24, Sampleholm));
        (await LoadAsync(Encoding.UTF8.GetBytes("range,country\n"))).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        using var db = product.Database();
        db.Places.Count().ShouldBe(1);
    }

    [Fact]
    public async Task A_file_that_was_cut_off_is_refused()
    {
        var whole = Mmdb("192.0.2.0", 24, Sampleholm);
        (await LoadAsync([.. whole.AsSpan(40)])).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task A_file_whose_records_say_no_country_is_refused()
    {
        var file = Mmdb("192.0.2.0", 24, new Dictionary<string, object> { ["asn"] = "AS64496" });
        (await LoadAsync(file)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    /// <summary>A database of IPv4 with one range.</summary>
    private static byte[] Mmdb(string address, int length, object record)
    {
        var bits = BinaryPrimitives.ReadUInt32BigEndian(IPAddress.Parse(address).GetAddressBytes());
        using var file = new MemoryStream();
        Span<byte> node = stackalloc byte[8];
        for (var depth = 0; depth < length; depth++)
        {
            // A record that equals the number of nodes is empty; one above it by 16 points to the first of the data.
            var next = depth == length - 1 ? (uint)length + 16 : (uint)depth + 1;
            var one = (bits >> (31 - depth) & 1) == 1;
            BinaryPrimitives.WriteUInt32BigEndian(node, one ? (uint)length : next);
            BinaryPrimitives.WriteUInt32BigEndian(node[4..], one ? next : (uint)length);
            file.Write(node);
        }

        file.Write(new byte[16]);
        Write(file, record);
        file.Write([0xAB, 0xCD, 0xEF, .. "MaxMind.com"u8]);
        Write(
            file,
            new Dictionary<string, object>
            {
                ["binary_format_major_version"] = (ushort)2,
                ["binary_format_minor_version"] = (ushort)0,
                ["build_epoch"] = 1_780_000_000UL,
                ["database_type"] = "Test",
                ["description"] = new Dictionary<string, object> { ["en"] = "One range" },
                ["ip_version"] = (ushort)4,
                ["languages"] = new object[] { "en" },
                ["node_count"] = (uint)length,
                ["record_size"] = (ushort)32,
            }
        );
        return file.ToArray();
    }

    /// <summary>The data section: a control byte of type and size, then the payload; types above 7 take a byte more.</summary>
    private static void Write(MemoryStream file, object value)
    {
        switch (value)
        {
            case string text:
                Control(file, 2, Encoding.UTF8.GetByteCount(text));
                file.Write(Encoding.UTF8.GetBytes(text));
                break;
            case double real:
                Control(file, 3, 8);
                var bytes = new byte[8];
                BinaryPrimitives.WriteDoubleBigEndian(bytes, real);
                file.Write(bytes);
                break;
            case ushort number:
                Control(file, 5, 2);
                file.Write([(byte)(number >> 8), (byte)number]);
                break;
            case uint number:
                Control(file, 6, 4);
                file.Write([(byte)(number >> 24), (byte)(number >> 16), (byte)(number >> 8), (byte)number]);
                break;
            case ulong number:
                Control(file, 9, 8);
                var wide = new byte[8];
                BinaryPrimitives.WriteUInt64BigEndian(wide, number);
                file.Write(wide);
                break;
            case object[] list:
                Control(file, 11, list.Length);
                Array.ForEach(list, v => Write(file, v));
                break;
            case Dictionary<string, object> map:
                Control(file, 7, map.Count);
                foreach (var (name, part) in map)
                {
                    Write(file, name);
                    Write(file, part);
                }

                break;
            default:
                throw new ArgumentException($"{value} has no type here.", nameof(value));
        }
    }

    private static void Control(MemoryStream file, int type, int size)
    {
        var (low, more) = size < 29 ? (size, -1) : (29, size - 29);
        file.WriteByte((byte)(((type > 7 ? 0 : type) << 5) | low));
        if (type > 7)
        {
            file.WriteByte((byte)(type - 7));
        }

        if (more >= 0)
        {
            file.WriteByte((byte)more);
        }
    }
}

using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Disposition;

/// <summary>
/// Whatever one person asks for, in whatever order and however long they wait, nothing is destroyed: random histories of
/// requests by Ines alone, over rules that others agreed to and rules of her own.
/// </summary>
public sealed class OnePersonTests : IAsyncLifetime
{
    private const int Acts = 60;

    private readonly Product product = new();
    private readonly List<string> files = [];
    private readonly List<long> series = [];
    private Dictionary<string, long> containers = [];
    private Api ines = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        for (var i = 0; i < 6; i++)
        {
            files.Add(product.Write($"{(i < 3 ? "Fleet" : "Island")}/{i}.md", "2010-01-01", $"pier {i}"));
        }

        containers = await product.ScanAsync();
        ines = await product.SignInAsync("ines");
        // One that Tobias put in effect, so that Ines is the second person for the rule, and one that she asked for.
        using var tobias = await product.SignInAsync("tobias");
        series.Add(await SeriesAsync(tobias, "TMP-010"));
        await AgreeAsync(ines);
        series.Add(await SeriesAsync(ines, "TMP-020"));
        await AgreeAsync(tobias);
    }

    public ValueTask DisposeAsync()
    {
        ines.Dispose();
        return product.DisposeAsync();
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task Nothing_is_destroyed(int seed)
    {
        var random = new Random(seed);
        List<string> done = [];
        for (var i = 0; i < Acts; i++)
        {
            var (what, answer) = await ActAsync(random);
            done.Add($"{what}: {answer?.Problem ?? answer?.Status.ToString() ?? "done"}");
            ((int)(answer?.Status ?? HttpStatusCode.OK)).ShouldBeLessThan(500, string.Join('\n', done));
        }

        await ines.WaitForJobsAsync();
        files.ShouldAllBe(f => File.Exists(f), string.Join('\n', done));
    }

    private Task<(string What, Answer? Answer)> ActAsync(Random random)
    {
        var rule = series[random.Next(series.Count)];
        return random.Next(9) switch
        {
            0 or 1 => FileAsync(random.Next(6) == 0 ? null : rule, random),
            2 => ClearAsync(rule, random),
            3 => BatchAsync(rule),
            4 => SignAsync(),
            5 => ChangeAsync(rule, random),
            6 => DecideAsync(),
            7 => NewSeriesAsync(random),
            _ => WaitAsync(random),
        };
    }

    private static object Unsigned(string period = "P1D") =>
        Product.Definition(title: "Temporary", period: period, atEnd: "destroy");

    private async Task<long> SeriesAsync(Api who, string code)
    {
        var made = await who.PostOk(
            "series",
            new
            {
                code,
                unitId = product.Units["Tarn Lines"],
                draft = Unsigned(),
            }
        );
        var id = made.GetProperty("row").GetProperty("id").GetInt64();
        await Product.ActivateAsync(who, id, Unsigned());
        return id;
    }

    private static async Task AgreeAsync(Api who)
    {
        foreach (
            var waiting in (await who.GetOk("proposals"))
                .EnumerateArray()
                .Where(p => p.GetProperty("mayNotDecide").ValueKind == JsonValueKind.Null)
        )
        {
            await who.Post(
                $"proposals/{waiting.GetProperty("id").GetInt64()}/decision",
                new { agree = true, why = "test" },
                waiting.GetProperty("revision").GetInt64()
            );
        }
    }

    private async Task<(string, Answer?)> FileAsync(long? rule, Random random)
    {
        var filing = new
        {
            selection = new { container = new[] { containers[random.Next(2) == 0 ? "Fleet" : "Island"] } },
            seriesId = rule,
        };
        var shown = await ines.Post("filings/consequences", filing);
        var fingerprint = shown.Status == HttpStatusCode.OK ? shown.Body.GetProperty("fingerprint").GetString() : "";
        return (
            $"file under {rule}",
            await ines.Post(
                "filings",
                new
                {
                    filing.selection,
                    filing.seriesId,
                    fingerprint,
                    why = "test",
                }
            )
        );
    }

    private async Task<(string, Answer?)> ClearAsync(long rule, Random random) =>
        (
            $"clear {rule}",
            await ines.Post(
                "clearings",
                new
                {
                    seriesId = rule,
                    items = random.Next(1, 7),
                    why = "Nobody needs it.",
                }
            )
        );

    private async Task<(string, Answer?)> BatchAsync(long rule) =>
        ($"batch of {rule}", await ines.Post("batches", new { seriesId = rule }));

    private async Task<(string, Answer?)> SignAsync()
    {
        var open = (await ines.GetOk("docket")).GetProperty("batches");
        return open.GetArrayLength() == 0
            ? ("nothing to sign", null)
            : ("sign", await Product.SignAsync(ines, open[0].GetProperty("id").GetInt64()));
    }

    private async Task<(string, Answer?)> ChangeAsync(long rule, Random random)
    {
        var ends = new[] { "destroy", "signOff", "nothing" };
        var draft = Product.Definition(
            title: "Temporary",
            period: random.Next(2) == 0 ? "P1D" : "P2Y",
            atEnd: ends[random.Next(ends.Length)]
        );
        var known = await ines.GetOk($"series/{rule}");
        var saved = await ines.Put($"series/{rule}/draft", draft, known.GetProperty("revision").GetInt64());
        if (saved.Status != HttpStatusCode.OK)
        {
            return ($"draft of {rule}", saved);
        }

        var shown = await ines.PostOk($"series/{rule}/consequences", draft);
        return (
            $"put {rule} into effect",
            await ines.Post(
                $"series/{rule}/activation",
                new
                {
                    fingerprint = shown.GetProperty("fingerprint").GetString(),
                    why = "test",
                    confirmed = true,
                },
                (await ines.GetOk($"series/{rule}")).GetProperty("revision").GetInt64()
            )
        );
    }

    private async Task<(string, Answer?)> DecideAsync()
    {
        await AgreeAsync(ines);
        return ("agree to what waits", null);
    }

    private async Task<(string, Answer?)> NewSeriesAsync(Random random)
    {
        var code = $"NEW-{random.Next(1000):000}";
        var made = await ines.Post(
            "series",
            new
            {
                code,
                unitId = product.Units["Tarn Lines"],
                draft = Unsigned(),
            }
        );
        if (made.Status == HttpStatusCode.OK)
        {
            var id = made.Body.GetProperty("row").GetProperty("id").GetInt64();
            series.Add(id);
            await Product.ActivateAsync(ines, id, Unsigned());
        }

        return ($"make {code}", made);
    }

    private async Task<(string, Answer?)> WaitAsync(Random random)
    {
        var days = random.Next(1, 400);
        product.Clock.AdvanceDays(days);
        // The day after is begun by its routine; whatever that puts in the queue is done first.
        await ines.WaitForJobsAsync();
        return ($"wait {days} days", null);
    }
}

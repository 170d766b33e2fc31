using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.People;
using WideKeel.Server.People;

namespace WideKeel.Server.Tests.People;

public sealed partial class DoorTests(DoorTests.Shared shared) : IClassFixture<DoorTests.Shared>
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>
    /// Every endpoint and who may use it: R records manager, S steward, F staff, A administrator, L legal lead, G
    /// legal, Y security analyst, * anyone signed in, - anyone at all. A new endpoint fails the test until the file lists it.
    /// </summary>
    private static readonly string Table = File.ReadAllText(
            Path.Combine(AppContext.BaseDirectory, "Fixtures", "doors.txt")
        )
        .TrimEnd();

    private static readonly Dictionary<char, string> People = new()
    {
        ['R'] = "ines",
        ['S'] = "maren",
        ['F'] = "pia",
        ['A'] = "jonas",
        ['L'] = "vera",
        ['G'] = "nils",
        ['Y'] = "sunniva",
        ['M'] = "mikkel",
    };

    [Fact]
    public async Task Every_endpoint_is_open_to_the_roles_that_are_listed_and_closed_to_the_others()
    {
        var listed = Table.Split('\n').Select(l => l.Split(' ')).ToDictionary(p => $"{p[0]} {p[1]}", p => p[2]);
        var endpoints = shared
            .Product.Services.GetRequiredService<EndpointDataSource>()
            .Endpoints.OfType<RouteEndpoint>()
            .Where(e => e.RoutePattern.RawText!.StartsWith("/api", StringComparison.Ordinal))
            .SelectMany(e =>
                (e.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? ["ANY"]).Select(m =>
                    (Key: $"{m} {e.RoutePattern.RawText}", Endpoint: e)
                )
            )
            .ToList();
        var there = endpoints.ConvertAll(e => e.Key);
        there.Except(listed.Keys).ShouldBeEmpty("not listed");
        listed.Keys.Except(there).ShouldBeEmpty("listed only");
        endpoints.ShouldAllBe(e => e.Endpoint.Metadata.GetMetadata<Requirement>() != null);

        foreach (var (letter, name) in People)
        {
            using var who = await shared.Product.SignInAsync(name);
            foreach (
                var (key, allowed) in listed.Where(l =>
                    !l.Key.StartsWith("ANY", StringComparison.Ordinal)
                    && !l.Key.EndsWith("/session", StringComparison.Ordinal)
                    && !l.Key.EndsWith("/stream", StringComparison.Ordinal)
                )
            )
            {
                var (method, path) = (
                    key.Split(' ')[0],
                    Parameters().Replace(key.Split(' ')[1]["/api/".Length..], "999999")
                );
                var answer = await who.SendAsync(
                    new HttpMethod(method),
                    path,
                    method is "POST" or "PUT" ? new { } : null,
                    null
                );
                var closed = answer.Status == HttpStatusCode.Forbidden && answer.Problem == "not-allowed";
                var open = allowed is "-" or "*" || allowed.Contains(letter, StringComparison.Ordinal);
                // Set-up is open to all and refuses because it is done; keys are refused for the missing scopes.
                if (key is not ("POST /api/set-up" or "POST /api/api-keys"))
                {
                    closed.ShouldBe(!open, $"{name} on {key}: {answer.Status} {answer.Body}");
                }
            }
        }

        using var nobody = await Api.ConnectAsync(shared.Product.Address);
        foreach (
            var key in listed
                .Where(l => l.Value != "-")
                .Select(l => l.Key.Replace("ANY", "GET", StringComparison.Ordinal))
        )
        {
            var answer = await nobody.SendAsync(
                new HttpMethod(key.Split(' ')[0]),
                Parameters().Replace(key.Split(' ')[1]["/api/".Length..], "1"),
                key.StartsWith('P') ? new { } : null,
                null
            );
            answer.Status.ShouldBe(HttpStatusCode.Unauthorized, key);
        }
    }

    [Fact]
    public async Task A_steward_of_one_part_learns_nothing_of_its_sister_by_list_count_search_id_or_ledger()
    {
        var product = shared.Product;
        using var maren = await product.SignInAsync("maren");
        using var ines = await product.SignInAsync("ines");
        var northern = (await ines.GetOk("items?cql=secretword")).GetProperty("items")[0];
        northern.GetProperty("container").GetString().ShouldBe("Northern");
        var id = northern.GetProperty("id").GetInt64();

        (await maren.GetOk("items"))
            .GetProperty("items")
            .EnumerateArray()
            .Select(i => i.GetProperty("container").GetString())
            .Distinct()
            .ShouldBe(["Island"]);
        (await maren.GetOk("items")).GetProperty("total").GetInt64().ShouldBe(3);
        (await maren.GetOk("items?cql=secretword")).GetProperty("total").GetInt64().ShouldBe(0);
        (await maren.GetOk($"items?ids={id}")).GetProperty("total").GetInt64().ShouldBe(0);
        (await maren.GetOk($"items?container={northern.GetProperty("containerId").GetInt64()}"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(0);
        (await maren.GetOk("items/facets")).ToString().ShouldNotContain("Northern");
        (await maren.GetOk("find?q=secretword")).GetArrayLength().ShouldBe(0);
        (await maren.GetOk("find?q=NOR-010")).GetArrayLength().ShouldBe(0);
        foreach (
            var path in new[]
            {
                $"items/{id}",
                $"items/{id}/preview",
                $"items/{id}/history",
                $"series/{shared.NorthernSeries}",
                $"series/{shared.NorthernSeries}/versions",
                $"batches/{shared.NorthernBatch}",
                $"batches/{shared.NorthernBatch}/lines",
            }
        )
        {
            var answer = await maren.Get(path);
            var unknown = await maren.Get(Numbers().Replace(path, "987654", 1));
            answer.Status.ShouldBe(HttpStatusCode.NotFound, path);
            answer.Body.GetProperty("title").GetString().ShouldBe(unknown.Body.GetProperty("title").GetString());
        }

        (await maren.GetOk("series/names"))
            .EnumerateArray()
            .Select(s => s.GetProperty("code").GetString())
            .ShouldBe(["ALL-010", "ISL-010"]);
        (await maren.GetOk("series"))
            .GetProperty("series")
            .EnumerateArray()
            .Single(s => s.GetProperty("code").GetString() == "ALL-010")
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(0);
        (await maren.GetOk("docket")).ToString().ShouldNotContain("NOR-010");
        (await maren.GetOk("units")).ToString().ShouldNotContain("Northern");
        var ledger = await maren.GetOk("ledger?limit=500");
        ledger.ToString().ShouldNotContain("secret");
        ledger.ToString().ShouldNotContain("Northern");
        ledger.GetProperty("total").GetInt64().ShouldBe(ledger.GetProperty("entries").GetArrayLength());
        (await maren.GetOk($"ledger?kind=item&subject={id}")).GetProperty("total").GetInt64().ShouldBe(0);
        (await maren.GetOk("today")).ToString().ShouldNotContain("NOR-010");
        (await maren.GetOk("jobs")).ToString().ShouldNotContain("NOR-010");
        var csv = await maren.Http.GetStringAsync(new Uri("items.csv", UriKind.Relative), Stop);
        csv.ShouldNotContain("Northern");

        // Nor can she act there: file, sign, write, open.
        (
            await maren.Post(
                "filings/consequences",
                new { selection = new { ids = new[] { id } }, seriesId = shared.IslandSeries }
            )
        )
            .Body.GetProperty("figures")
            .GetProperty("inReach")
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(0);
        (await maren.Post("batches", new { seriesId = shared.NorthernSeries })).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
        (await maren.Post($"series/{shared.NorthernSeries}/consequences", Product.Definition())).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
        (await maren.Put($"series/{shared.NorthernSeries}/draft", Product.Definition(), 1)).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
        (await maren.Put($"series/{shared.WholeSeries}/draft", Product.Definition(), 1)).Status.ShouldBe(
            HttpStatusCode.Forbidden
        );
        (
            await maren.Post(
                "series",
                new
                {
                    code = "XXX-010",
                    unitId = product.Units["Northern"],
                    draft = Product.Definition(),
                }
            )
        ).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    /// <summary>
    /// The remit in the matrix: every address that a steward may read is asked for everything that has a low number, and
    /// shows nothing of the sister unit, by whatever name it would be there.
    /// </summary>
    [Fact]
    public async Task No_address_shows_a_steward_anything_of_the_sister_unit()
    {
        using var maren = await shared.Product.SignInAsync("maren");
        List<string> shown = [];
        foreach (
            var path in Table
                .Split('\n')
                .Select(l => l.Split(' '))
                .Where(l =>
                    l[0] == "GET"
                    && (l[2] is "*" or "-" || l[2].Contains('S', StringComparison.Ordinal))
                    && !l[1].EndsWith("/stream", StringComparison.Ordinal)
                    && !l[1].Contains("{token}", StringComparison.Ordinal)
                )
                .Select(l => l[1]["/api/".Length..])
        )
        {
            foreach (var id in Enumerable.Range(1, path.Contains('{', StringComparison.Ordinal) ? 12 : 1))
            {
                var asked = Parameters().Replace(path, id.ToString(CultureInfo.InvariantCulture));
                var text = (await maren.Get(asked)).Text ?? "";
                if (new[] { "NOR-010", "secretword", "secret 1", "Northern" }.Any(w => text.Contains(w)))
                {
                    shown.Add(asked);
                }
            }
        }

        shown.ShouldBeEmpty();
    }

    [Fact]
    public async Task Items_outside_a_series_unit_are_not_filed_under_it()
    {
        using var ines = await shared.Product.SignInAsync("ines");
        var answer = await ines.Post(
            "filings/consequences",
            new { selection = new { cql = "secretword" }, seriesId = shared.IslandSeries }
        );
        answer.Problem.ShouldBe("outside-the-series");
    }

    [Fact]
    public async Task A_key_does_what_its_scopes_say_until_it_is_revoked_or_its_person_is_switched_off()
    {
        using var tobias = await shared.Product.SignInAsync("tobias");
        (
            await tobias.Post(
                "api-keys",
                new
                {
                    name = "too much",
                    scopes = new[] { "managePeople" },
                    days = 5,
                }
            )
        ).Problem.ShouldBe("not-allowed");
        var issued = await tobias.PostOk(
            "api-keys",
            new
            {
                name = "reader",
                scopes = new[] { "readContent" },
                days = 5,
            }
        );
        using var program = new HttpClient { BaseAddress = new Uri(shared.Product.Address, "/api/") };
        program.DefaultRequestHeaders.Add("Authorization", $"Bearer {issued.GetProperty("key").GetString()}");
        (await program.GetAsync(new Uri("items", UriKind.Relative), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await program.GetAsync(new Uri("series", UriKind.Relative), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.Forbidden
        );
        (await tobias.Delete($"api-keys/{issued.GetProperty("view").GetProperty("id").GetInt64()}")).Status.ShouldBe(
            HttpStatusCode.OK
        );
        (await program.GetAsync(new Uri("items", UriKind.Relative), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.Unauthorized
        );
    }

    [Fact]
    public async Task Five_failures_lock_an_account_and_each_is_in_the_ledger()
    {
        using var api = await Api.ConnectAsync(shared.Product.Address);
        for (var i = 0; i < 5; i++)
        {
            (
                await api.Post("session", new { mail = "edvin@tarn.example", password = "wrong-wrong-wrong" })
            ).Status.ShouldBe(HttpStatusCode.Unauthorized);
        }

        (await api.Post("session", new { mail = "edvin@tarn.example", password = Product.Password })).Problem.ShouldBe(
            "locked-out"
        );
        var unknown = await api.Post("session", new { mail = "nobody@tarn.example", password = "wrong-wrong-wrong" });
        var known = await api.Post("session", new { mail = "pia@tarn.example", password = "wrong-wrong-wrong" });
        unknown.Body.GetProperty("title").GetString().ShouldBe(known.Body.GetProperty("title").GetString());
        using var ines = await shared.Product.SignInAsync("ines");
        (await ines.GetOk("ledger?verb=sign-in-refused&who=edvin@tarn.example"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(6);
    }

    [Fact]
    public async Task A_change_without_the_form_token_is_refused()
    {
        using var ines = await shared.Product.SignInAsync("ines");
        ines.Http.DefaultRequestHeaders.Remove("X-XSRF-TOKEN");
        (await ines.Post("batches", new { seriesId = 1 })).Problem.ShouldBe("antiforgery");
    }

    [Fact]
    public async Task A_person_who_is_switched_off_is_out_at_once()
    {
        using var jonas = await shared.Product.SignInAsync("jonas");
        await shared.Product.AddPersonAsync(jonas, "leaver", "staff", "Island");
        using var leaver = await shared.Product.SignInAsync("leaver");
        (await leaver.Get("items")).Status.ShouldBe(HttpStatusCode.OK);
        var row = (await jonas.GetOk("people"))
            .EnumerateArray()
            .Single(p => p.GetProperty("name").GetString() == "leaver");
        (
            await jonas.Put(
                $"people/{row.GetProperty("id").GetInt64()}",
                new
                {
                    name = "leaver",
                    active = false,
                    remits = Array.Empty<object>(),
                },
                row.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await leaver.Get("items")).Status.ShouldBe(HttpStatusCode.Unauthorized);
        (
            await jonas.Put(
                $"people/{row.GetProperty("id").GetInt64()}",
                new
                {
                    name = "leaver",
                    active = true,
                    remits = Array.Empty<object>(),
                },
                row.GetProperty("revision").GetInt64()
            )
        ).Problem.ShouldBe("stale");
    }

    [GeneratedRegex(@"\{[^}]+\}")]
    private static partial Regex Parameters();

    [GeneratedRegex(@"\d+")]
    private static partial Regex Numbers();

    /// <summary>One product with content on both sides, a series for each and one above both.</summary>
    public sealed class Shared : IAsyncLifetime
    {
        public Product Product { get; } = new();

        public long NorthernSeries { get; private set; }

        public long IslandSeries { get; private set; }

        public long WholeSeries { get; private set; }

        public long NorthernBatch { get; private set; }

        public async ValueTask InitializeAsync()
        {
            await Product.InitializeAsync();
            for (var i = 0; i < 3; i++)
            {
                Product.Write(
                    $"Northern/secret {i.ToString(CultureInfo.InvariantCulture)}.md",
                    "2010-01-01",
                    $"secretword {i}"
                );
                Product.Write(
                    $"Island/open {i.ToString(CultureInfo.InvariantCulture)}.md",
                    "2010-01-01",
                    $"openword {i}"
                );
            }

            var containers = await Product.ScanAsync();
            using var ines = await Product.SignInAsync("ines");
            WholeSeries = await Product.SeriesInForceAsync(
                ines,
                "ALL-010",
                "Tarn Lines",
                [0],
                Product.Definition("Everything")
            );
            IslandSeries = await Product.SeriesInForceAsync(
                ines,
                "ISL-010",
                "Island",
                [containers["Island"]],
                Product.Definition("Island permits")
            );
            NorthernSeries = await Product.SeriesInForceAsync(
                ines,
                "NOR-010",
                "Northern",
                [containers["Northern"]],
                Product.Definition("Northern permits")
            );
            NorthernBatch = (await ines.PostOk("batches", new { seriesId = NorthernSeries }))
                .GetProperty("id")
                .GetInt64();
        }

        public ValueTask DisposeAsync() => Product.DisposeAsync();
    }
}

using System.Globalization;
using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using WideKeel.Store.Ledger;

namespace WideKeel.Server.Tests.Kernel;

/// <summary>
/// Requests made from the product's own description, most of them nearly right, by several people at once: whatever is
/// asked, the answer is no fault of the server, and a refusal says why.
/// </summary>
public sealed class FuzzTests : IAsyncLifetime
{
    /// <summary>A few in the suite; <c>WIDEKEEL_FUZZ=100000</c> asks for more.</summary>
    private static readonly int Requests = Number("WIDEKEEL_FUZZ", 2_000);

    private static readonly int Seed = Number("WIDEKEEL_FUZZ_SEED", 1);

    /// <summary>What would end the fuzzer's own sessions, or takes its own time.</summary>
    private static readonly HashSet<string> Spared =
    [
        "delete /api/session",
        "delete /api/sessions",
        "delete /api/sessions/{id}",
        "put /api/session/password",
        "post /api/session/password",
        "put /api/people/{id}",
    ];

    private readonly Product product = new();

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.StopAsync();
        // Whatever it connects, it connects nothing of this machine.
        product.Roots = [product.Share];
        await product.StartAsync();
    }

    public ValueTask DisposeAsync() => product.DisposeAsync();

    [Fact]
    public async Task No_request_brings_the_server_to_a_fault()
    {
        var cancel = TestContext.Current.CancellationToken;
        await BeginAsync();
        List<Api> people = [];
        foreach (var name in new[] { "ines", "jonas", "vera", "sunniva", "mikkel", "pia", "tobias" })
        {
            people.Add(await product.SignInAsync(name));
        }

        var description = JsonNode.Parse(
            await people[0].Http.GetStringAsync(new Uri(product.Address, "/openapi/v1.json"), cancel)
        )!;
        var random = new Random(Seed);
        var maker = new RequestMaker(description, random, Spared);
        List<string> faults = [];
        for (var i = 0; i < Requests && faults.Count < 20; i++)
        {
            using var request = maker.Next();
            var shown = $"{request.Method} {request.RequestUri} {await BodyAsync(request)}";
            using var answer = await people[random.Next(people.Count)].Http.SendAsync(request, cancel);
            var text = await answer.Content.ReadAsStringAsync(cancel);
            if ((int)answer.StatusCode >= 500 || ((int)answer.StatusCode >= 400 && !SaysWhy(text)))
            {
                faults.Add($"{(int)answer.StatusCode} {shown}\n   {Cut(text)}");
            }
        }

        faults.ShouldBeEmpty($"Seed {Seed}:\n{string.Join('\n', faults)}");
        people.ForEach(p => p.Dispose());
        await product.StopAsync();
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    /// <summary>Something of each kind, so that low numbers find it.</summary>
    private async Task BeginAsync()
    {
        for (var i = 0; i < 20; i++)
        {
            product.Write($"Fleet/{i}.md", "2015-01-01", $"pier {i}", "Subject reference: ship-1\n");
        }

        var containers = await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        using var vera = await product.SignInAsync("vera");
        var series = await product.SeriesInForceAsync(
            ines,
            "VES-040",
            "Fleet",
            [containers["Fleet"]],
            Product.Definition()
        );
        await ines.PostOk("batches", new { seriesId = series });
        await product.OpenMatterAsync(vera);
    }

    private static bool SaysWhy(string text)
    {
        try
        {
            return JsonNode.Parse(text)?["type"] is not null;
        }
        catch (System.Text.Json.JsonException)
        {
            return false;
        }
    }

    private static async Task<string> BodyAsync(HttpRequestMessage request) =>
        request.Content is null ? "" : Cut(await request.Content.ReadAsStringAsync());

    private static string Cut(string text) => text.Length > 600 ? text[..600] + "…" : text;

    private static int Number(string name, int otherwise) =>
        int.TryParse(Environment.GetEnvironmentVariable(name), CultureInfo.InvariantCulture, out var asked)
            ? asked
            : otherwise;
}

/// <summary>Makes requests from an OpenAPI description: mostly of the right shape, with a few things wrong in each.</summary>
internal sealed class RequestMaker
{
    private static readonly string[] Words =
    [
        "",
        " ",
        "pier",
        "VES-040",
        "Fleet",
        "\"",
        "'",
        "\"open quote",
        "a,b\n\"c",
        "text = (pier",
        "title = pier and created > 2015-01-01",
        "pier prox/distance<=3 crane",
        "*",
        "P5Y",
        "P1M",
        "P99999Y",
        "2015-01-01",
        "0001-01-01",
        "9999-12-31",
        "1601-01-01",
        "2099-12-31",
        "2026-02-30",
        "2026-06-15T08:00:00Z",
        "Etc/UTC",
        "../../etc/passwd",
        "a@b.example",
        "http://127.0.0.1:1/",
        "select 1",
        "select * from events",
        "[null,1]",
        "{\"a\":",
        "\0",
        "\uFFFD\u202E",
        "ﷺ 🛳 é",
        "-1",
        "9223372036854775808",
        "NaN",
        "true",
        "recordsManager",
        "09-30",
    ];

    private readonly List<(string Method, string Path, JsonNode Operation)> operations = [];
    private readonly JsonNode schemas;
    private readonly Random random;

    public RequestMaker(JsonNode description, Random random, HashSet<string> spared)
    {
        (this.random, schemas) = (random, description["components"]!["schemas"]!);
        foreach (var (path, methods) in description["paths"]!.AsObject())
        {
            operations.AddRange(
                methods!
                    .AsObject()
                    .Where(m => !spared.Contains($"{m.Key} {path}"))
                    .Select(m => (m.Key.ToUpperInvariant(), path, m.Value!))
            );
        }
    }

    public HttpRequestMessage Next()
    {
        var (method, path, operation) = operations[random.Next(operations.Count)];
        List<string> query = [];
        foreach (var parameter in operation["parameters"]?.AsArray() ?? [])
        {
            var name = (string)parameter!["name"]!;
            if ((string)parameter["in"]! == "path")
            {
                // The web server refuses a null itself, before the product sees it.
                var value = Plain(parameter["schema"]!).Replace("\0", "", StringComparison.Ordinal);
                path = path.Replace($"{{{name}}}", Uri.EscapeDataString(Short(value)), StringComparison.Ordinal);
            }
            else if (Chance(40))
            {
                query.Add($"{name}={Uri.EscapeDataString(Short(Plain(parameter["schema"]!)))}");
            }
        }

        var request = new HttpRequestMessage(
            new HttpMethod(method),
            path + (query.Count > 0 ? "?" + string.Join('&', query) : "")
        );
        if (method is "POST" or "PUT")
        {
            request.Content = Body(operation["requestBody"]?["content"]?["application/json"]?["schema"]);
        }

        if (Chance(70))
        {
            request.Headers.TryAddWithoutValidation("If-Match", Chance(90) ? $"\"{random.Next(0, 4)}\"" : "\"x");
        }

        return request;
    }

    private HttpContent Body(JsonNode? schema)
    {
        if (schema is null || Chance(3))
        {
            return new ByteArrayContent(Encoding.UTF8.GetBytes(string.Join(',', Word(), Word(), Word())))
            {
                Headers = { ContentType = new MediaTypeHeaderValue(Chance(50) ? "text/csv" : "application/json") },
            };
        }

        return new StringContent(Value(schema, 0)?.ToJsonString() ?? "null", Encoding.UTF8, "application/json");
    }

    /// <summary>A value of a schema, now and then of none.</summary>
    private JsonNode? Value(JsonNode schema, int depth)
    {
        if (Chance(4))
        {
            return Odd();
        }

        if ((string?)schema["$ref"] is { } reference)
        {
            return Value(schemas[reference.Split('/')[^1]]!, depth);
        }

        if (schema["oneOf"] is JsonArray choices)
        {
            return Value(choices[random.Next(choices.Count)]!, depth);
        }

        if (schema["enum"] is JsonArray words)
        {
            return words[random.Next(words.Count)]?.DeepClone();
        }

        return TypeOf(schema) switch
        {
            "object" => Members(schema, depth),
            "array" when schema["items"] is { } items && depth < 6 => new JsonArray([
                .. Enumerable.Range(0, random.Next(0, 4)).Select(_ => Value(items, depth + 1)),
            ]),
            "array" => new JsonArray(),
            "boolean" => Chance(50),
            "integer" => Integer(),
            "number" => Chance(80) ? random.Next(0, 10) : random.NextDouble() * 1e300,
            "string" when (string?)schema["format"] == "date" => Chance(80) ? "2026-05-01" : Word(),
            "string" when (string?)schema["format"] == "date-time" => Chance(80) ? "2026-05-01T08:00:00Z" : Word(),
            "string" => Word(),
            _ => null,
        };
    }

    private JsonObject Members(JsonNode schema, int depth)
    {
        var members = new JsonObject();
        if (depth < 6)
        {
            foreach (var (name, of) in schema["properties"]?.AsObject() ?? [])
            {
                if (Chance(95))
                {
                    members[name] = Value(of!, depth + 1);
                }
            }
        }

        return members;
    }

    /// <summary>One of the types that a schema allows; the last is the one that is no null.</summary>
    private string? TypeOf(JsonNode schema) =>
        schema["type"] switch
        {
            JsonArray several => (string?)(
                Chance(10) ? several[0] : several.LastOrDefault(t => (string?)t != "null") ?? several[0]
            ),
            JsonValue one => (string?)one,
            _ => null,
        };

    private long Integer() =>
        Chance(85) ? random.Next(1, 12)
        : Chance(50) ? 0
        : Chance(50) ? -1
        : Chance(50) ? int.MaxValue
        : long.MaxValue;

    private JsonNode? Odd() =>
        random.Next(7) switch
        {
            0 => null,
            1 => Word(),
            2 => Integer(),
            3 => new JsonArray([null]),
            4 => new JsonObject { [Word()] = null },
            5 => Chance(20) ? new string('x', 70_000) : new string('x', 300),
            _ => 1.5,
        };

    private string Plain(JsonNode schema) =>
        TypeOf(schema) == "array" ? Plain(schema["items"] ?? new JsonObject())
        : (string?)schema["$ref"] is { } reference ? Plain(schemas[reference.Split('/')[^1]]!)
        : Chance(5) ? Word()
        : TypeOf(schema) switch
        {
            "integer" => Integer().ToString(CultureInfo.InvariantCulture),
            "boolean" => Chance(50) ? "true" : "false",
            "number" => Chance(80) ? "3" : Word(),
            _ => Value(schema, 0)?.ToString() ?? "",
        };

    private static string Short(string value) => value.Length > 300 ? value[..300] : value;

    private string Word() => Words[random.Next(Words.Length)];

    private bool Chance(int inHundred) => random.Next(100) < inHundred;
}

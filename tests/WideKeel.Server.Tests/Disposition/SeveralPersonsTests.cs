using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Disposition;

/// <summary>
/// Random acts of random persons over random histories. What made an item due is told here by looking at the items before
/// and after each act, and not by what the product notes: whoever had a part in it never destroys the item, and no act of
/// one person alone makes one due sooner without sign-off.
/// </summary>
public sealed class SeveralPersonsTests : IAsyncLifetime
{
    private const int Acts = 70;
    private const int Files = 6;

    private readonly Product product = new();
    private readonly List<Api> persons = [];
    private readonly string[] names = ["ines", "tobias", "solveig", "oskar"];
    private readonly List<long> series = [];
    private readonly List<string> done = [];

    /// <summary>By item: the persons of the act that last made it due without sign-off.</summary>
    private readonly Dictionary<long, HashSet<int>> causes = [];

    /// <summary>By series: the persons who put its rule into effect.</summary>
    private Dictionary<string, long> containers = [];
    private long blanket;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        for (var i = 0; i < Files; i++)
        {
            product.Write(
                $"{(i < 3 ? "Fleet" : "Island")}/{i}.md",
                "2016-01-01",
                $"pier {i}",
                $"subject-reference: IMO990100{i % 2}\n"
            );
        }

        containers = await product.ScanAsync();
        using (var jonas = await product.SignInAsync("jonas"))
        {
            await product.AddPersonAsync(jonas, "solveig", "recordsManager");
            await product.AddPersonAsync(jonas, "oskar", "recordsManager");
        }

        foreach (var name in names)
        {
            persons.Add(await product.SignInAsync(name));
        }

        await persons[0]
            .PostOk(
                "trigger-event-types",
                new
                {
                    name = "sold",
                    title = "Sold",
                    description = "",
                }
            );
        blanket = await product.BlanketInForceAsync(persons[0], "Old files", "Tarn Lines", Blanket());
        series.Add(await SeriesAsync(0, "TMP-010", Definition(0)));
        series.Add(await SeriesAsync(1, "TMP-020", Definition(1)));
        series.Add(await SeriesAsync(2, "KEEP-010", Definition(2)));
    }

    public ValueTask DisposeAsync()
    {
        persons.ForEach(p => p.Dispose());
        return product.DisposeAsync();
    }

    [Theory]
    [InlineData(11)]
    [InlineData(12)]
    [InlineData(13)]
    [InlineData(14)]
    public async Task Nobody_destroys_what_they_made_due_and_nobody_alone_makes_it_due(int seed)
    {
        var random = new Random(seed);
        for (var i = 0; i < Acts; i++)
        {
            await StepAsync(random);
        }
    }

    /// <summary>One act, with the items before and after it.</summary>
    private async Task StepAsync(Random random)
    {
        var before = await ItemsAsync();
        var who = random.Next(persons.Count);
        var (what, answer, with) = await ActAsync(who, random);
        done.Add($"{names[who]}: {what}: {answer?.Problem ?? answer?.Status.ToString() ?? "done"}");
        ((int)(answer?.Status ?? HttpStatusCode.OK)).ShouldBeLessThan(500, History());
        await persons[0].WaitForJobsAsync();
        foreach (var (id, now) in await ItemsAsync())
        {
            var was = before[id];
            if (now.Destroyed && !was.Destroyed)
            {
                causes.GetValueOrDefault(id, []).ShouldNotContain(who, $"{names[who]} destroyed {id}\n{History()}");
            }
            else if (now is { Unsigned: true, From: { } from } && !(was.Unsigned && Earlier(was.From, from)))
            {
                causes[id] = with is { } asker ? [who, asker] : [who];
                // Putting under a rule what nothing ruled is filing; the rule was agreed to.
                (with is not null || !was.Ruled).ShouldBeTrue($"{names[who]} alone made {id} due\n{History()}");
            }
        }
    }

    private string History() => string.Join('\n', done);

    /// <summary>It was due by then already, or lay due on the day.</summary>
    private bool Earlier(string? was, string from) =>
        was is not null
        && (
            string.CompareOrdinal(was, from) <= 0
            || string.CompareOrdinal(was, product.Clock.GetCurrentInstant().ToString()[..10]) <= 0
        );

    private sealed record Seen(bool Ruled, bool Unsigned, string? From, bool Destroyed);

    private async Task<Dictionary<long, Seen>> ItemsAsync()
    {
        using var db = product.Database();
        return db.Items.ToDictionary(
            i => i.Id,
            i => new Seen(
                i.KeepUntil is not null || i.AtEnd != Core.Retention.EndAction.Nothing,
                i.AtEnd == Core.Retention.EndAction.Destroy,
                i.DisposableFrom?.ToString("uuuu-MM-dd", null),
                i.DestroyedAt is not null
            )
        );
    }

    /// <returns>What was tried, its answer, and for an agreement who had asked.</returns>
    private async Task<(string What, Answer? Answer, int? With)> ActAsync(int who, Random random)
    {
        var rule = series[random.Next(series.Count)];
        switch (random.Next(10))
        {
            case 0:
                return ($"file under {rule}", await FileAsync(who, rule, random), null);
            case 1:
                return ("take off", await FileAsync(who, null, random), null);
            case 2:
                return ("report", await ReportAsync(who, random), null);
            case 3:
                return ("revoke", await RevokeAsync(who, random), null);
            case 4:
                return ($"change {rule}", await ChangeAsync(who, rule, random), null);
            case 5 or 6:
                return await AgreeAsync(who, random);
            case 7:
                product.Clock.AdvanceDays(random.Next(1, 200));
                await persons[0].WaitForJobsAsync();
                return ("wait", null, null);
            default:
                return ("clear", await ClearAsync(who, random.Next(4) == 0 ? null : rule), null);
        }
    }

    private object Blanket() =>
        new
        {
            description = "",
            reach = new
            {
                query = (string?)null,
                containers = new[] { containers["Island"] },
                except = Array.Empty<long>(),
            },
            from = "created",
            keep = (string?)null,
            destroys = false,
            destroyAfter = "P15Y",
        };

    private static object Definition(int kind) =>
        kind switch
        {
            0 => Product.Definition(title: "Temporary", period: "P11Y", atEnd: "destroy"),
            1 => Product.Definition(title: "Sold", trigger: "event:sold", period: "P1Y", atEnd: "destroy"),
            2 => Product.Definition(title: "Kept", period: "P20Y"),
            3 => Product.Definition(title: "Temporary", period: "P1Y", atEnd: "destroy"),
            _ => Product.Definition(title: "Temporary, corrected", period: "P11Y", atEnd: "destroy"),
        };

    private async Task<long> SeriesAsync(int who, string code, object definition)
    {
        var id = await product.SeriesInForceAsync(persons[who], code, "Tarn Lines", [], definition);
        foreach (var waiting in (await persons[3].GetOk("proposals")).EnumerateArray())
        {
            await DecideAsync(3, waiting);
        }

        return id;
    }

    private Task<Answer> DecideAsync(int who, JsonElement proposal) =>
        persons[who]
            .Post(
                $"proposals/{proposal.GetProperty("id").GetInt64()}/decision",
                new { agree = true, why = "test" },
                proposal.GetProperty("revision").GetInt64()
            );

    private async Task<(string, Answer?, int?)> AgreeAsync(int who, Random random)
    {
        var waiting = (await persons[who].GetOk("proposals")).EnumerateArray().ToList();
        if (waiting.Count == 0)
        {
            return ("nothing to agree to", null, null);
        }

        var one = waiting[random.Next(waiting.Count)];
        return (
            $"agree to {one.GetProperty("title").GetString()}",
            await DecideAsync(who, one),
            Array.IndexOf(names, one.GetProperty("askedBy").GetString())
        );
    }

    private async Task<Answer> FileAsync(int who, long? rule, Random random)
    {
        var selection = new { container = new[] { containers[random.Next(2) == 0 ? "Fleet" : "Island"] } };
        var shown = await persons[who].Post("filings/consequences", new { selection, seriesId = rule });
        return shown.Status != HttpStatusCode.OK
            ? shown
            : await persons[who]
                .Post(
                    "filings",
                    new
                    {
                        selection,
                        seriesId = rule,
                        fingerprint = shown.Body.GetProperty("fingerprint").GetString(),
                        why = "test",
                    }
                );
    }

    private Task<Answer> ReportAsync(int who, Random random) =>
        persons[who]
            .Post(
                "trigger-events",
                new
                {
                    type = "sold",
                    subject = $"IMO990100{random.Next(2)}",
                    date = $"20{random.Next(10, 26)}-03-01",
                    why = "test",
                }
            );

    private async Task<Answer?> RevokeAsync(int who, Random random)
    {
        var known = (await persons[who].GetOk("trigger-events"))
            .GetProperty("events")
            .EnumerateArray()
            .Where(e => e.GetProperty("revokedAt").ValueKind == JsonValueKind.Null)
            .ToList();
        return known.Count == 0
            ? null
            : await persons[who]
                .Post(
                    $"trigger-events/{known[random.Next(known.Count)].GetProperty("id").GetInt64()}/revocation",
                    new { why = "test" }
                );
    }

    private async Task<Answer> ChangeAsync(int who, long rule, Random random)
    {
        var draft = Definition(random.Next(5));
        var known = await persons[who].GetOk($"series/{rule}");
        var saved = await persons[who].Put($"series/{rule}/draft", draft, known.GetProperty("revision").GetInt64());
        if (saved.Status != HttpStatusCode.OK)
        {
            return saved;
        }

        var shown = await persons[who].PostOk($"series/{rule}/consequences", draft);
        return await persons[who]
            .Post(
                $"series/{rule}/activation",
                new { fingerprint = shown.GetProperty("fingerprint").GetString(), why = "test" },
                saved.Body.GetProperty("revision").GetInt64()
            );
    }

    private async Task<Answer> ClearAsync(int who, long? rule)
    {
        var due = (await persons[who].GetOk("docket")).GetProperty("due").EnumerateArray().ToList();
        var group = due.FirstOrDefault(d =>
            rule is null
                ? d.GetProperty("blanketId").ValueKind == JsonValueKind.Number
                : d.GetProperty("series").GetProperty("id").GetInt64() == rule
        );
        return await persons[who]
            .Post(
                "clearings",
                new
                {
                    seriesId = rule,
                    blanketId = rule is null ? blanket : (long?)null,
                    items = group.ValueKind == JsonValueKind.Undefined ? 1 : group.GetProperty("items").GetInt64(),
                    why = "test",
                }
            );
    }
}

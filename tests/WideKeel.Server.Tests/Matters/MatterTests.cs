using System.Diagnostics;
using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Shouldly;
using WideKeel.Core.Ledger;
using WideKeel.Store.Ledger;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.Matters;

/// <summary>Matters from the first member to the last release, through the API of a running product.</summary>
public sealed class MatterTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Dictionary<string, long> containers = [];

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/pier report.md", "2015-03-01", "contact with pier 4", "author: Anna Brand\n");
        product.Write("Fleet/fog.md", "2015-03-01", "nothing of it");
        product.Write("Island/dolphin.md", "2016-03-01", "the dolphin is bent");
        product.Write("Northern/notes.md", "2026-05-01", "pier 4 again", "author: Anna Brand\n");
        containers = await product.ScanAsync();
        await NameAnnaAsync(product);
    }

    /// <summary>Puts Anna Brand and others into the directory.</summary>
    internal static async Task NameAnnaAsync(Product product)
    {
        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk(
            "directory",
            new
            {
                people = "name,mail,unit,title,manager,leaves\n"
                    + "Anna Brand,anna@tarn.example,Fleet,Master,edvin@tarn.example,2026-06-29\n"
                    + "Edvin,edvin@tarn.example,Northern,Steward,,\n"
                    + "Nils,nils@tarn.example,Legal,Counsel,,\n",
                groups = "group,member\nBoard,anna@tarn.example\nCouncil,Board\n"
                    + "Team,edvin@tarn.example\nTeam,nils@tarn.example\nBoard,Council\nCouncil,Team\n",
            }
        );
    }

    public ValueTask DisposeAsync() => product.DisposeAsync();

    [Fact]
    public async Task From_the_order_to_the_release_and_beyond_its_delay()
    {
        using var vera = await product.SignInAsync("vera");
        using var nils = await product.SignInAsync("nils");
        using var ines = await product.SignInAsync("ines");
        var matter = await OpenAsync(vera);
        await LetInAsync(vera, matter, "nils", "reviewer");
        var order = await InForceAsync(
            vera,
            matter,
            "The collision",
            new
            {
                containers = new[] { containers["Fleet"], containers["Island"] },
                custodians = Array.Empty<long>(),
                query = "\"pier 4\" or dolphin",
                from = (string?)null,
                to = (string?)null,
            }
        );
        (await HeldAsync(vera, matter, order)).ShouldBe(["dolphin.md", "pier report.md"]);

        // Past its term, and not due: the hold suspends, it does not restart the clock.
        await product.SeriesInForceAsync(
            ines,
            "FLT-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(period: "P5Y")
        );
        (await ines.GetOk("items?state=due")).GetProperty("total").GetInt64().ShouldBe(1);
        var pier = (await ines.GetOk("items?state=held&cql=title=pier")).GetProperty("items")[0];
        pier.GetProperty("beneath").GetString().ShouldBe("due");
        (await ines.GetOk("docket")).GetProperty("due")[0].GetProperty("items").GetInt64().ShouldBe(1);

        // Whoever may not know is told that there is a reason; a member is told which.
        var id = pier.GetProperty("id").GetInt64();
        var told = await ines.GetOk($"items/{id}");
        (
            told.GetProperty("holds").GetArrayLength(),
            told.GetProperty("standing").GetString()!.StartsWith("Kept for another reason. ", StringComparison.Ordinal)
        ).ShouldBe((0, true));
        (await vera.GetOk($"items/{id}"))
            .GetProperty("holds")[0]
            .GetProperty("name")
            .GetString()
            .ShouldBe("The collision");

        // What arrives and matches is held on arrival; deleted on its share, it stays in safekeeping and the sweep
        // finds it.
        var late = product.Write("Island/late.md", "2026-06-01", "the dolphin, once more");
        await product.ScanAsync();
        (await HeldAsync(vera, matter, order)).ShouldContain("late.md");
        File.Delete(late);
        await product.ScanAsync();
        var sweep = (
            await vera.PostOk($"matters/{matter}/sweeps", new { name = "All", definition = Everything("dolphin") })
        )
            .GetProperty("sweeps")[0]
            .GetProperty("id")
            .GetInt64();
        await vera.PostOk($"matters/{matter}/sweeps/{sweep}/runs", new { });
        await vera.WaitForJobsAsync();
        var run = (await vera.GetOk($"matters/{matter}")).GetProperty("sweeps")[0].GetProperty("last");
        run.GetProperty("items").GetInt64().ShouldBe(2);
        (await vera.GetOk($"matters/{matter}/runs/{run.GetProperty("id").GetInt64()}/items"))
            .GetProperty("items")
            .EnumerateArray()
            .Single(i => i.GetProperty("title").GetString() == "late.md")
            .GetProperty("missing")
            .GetBoolean()
            .ShouldBeTrue();

        // Nobody releases alone; the second person sees the same figures, and what changed in between is refused.
        var preview = await vera.PostOk(
            $"matters/{matter}/orders/{order}/releases/consequences",
            new { narrowed = (object?)null }
        );
        preview.GetProperty("figures").GetProperty("becomeDue").GetProperty("items").GetInt64().ShouldBe(1);
        preview.GetProperty("day").GetString().ShouldBe("2026-07-16");
        (await AskReleaseAsync(vera, matter, order, null, days: 3)).Problem.ShouldBe("days-out-of-range");
        (await AskReleaseAsync(vera, matter, order, null)).Status.ShouldBe(HttpStatusCode.OK);
        var release = (await vera.GetOk($"matters/{matter}")).GetProperty("releases")[0].GetProperty("id").GetInt64();
        var fingerprint = preview.GetProperty("fingerprint").GetString();
        (
            await vera.Post(
                $"matters/{matter}/releases/{release}/decision",
                new
                {
                    agree = true,
                    why = "mine",
                    fingerprint,
                }
            )
        ).Problem.ShouldBe("second-person-needed");
        (
            await nils.Post(
                $"matters/{matter}/releases/{release}/decision",
                new
                {
                    agree = true,
                    why = "other figures",
                    fingerprint = "0000",
                }
            )
        ).Problem.ShouldBe("consequences-changed");
        (
            await nils.Post(
                $"matters/{matter}/releases/{release}/decision",
                new
                {
                    agree = true,
                    why = "settled",
                    fingerprint,
                }
            )
        ).Status.ShouldBe(HttpStatusCode.OK);

        // Protected still while the delay runs, and taken back whole.
        (await ines.GetOk("items?state=held"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(3);
        (await vera.Post($"matters/{matter}/releases/{release}/undoing", new { why = "too early" })).Status.ShouldBe(
            HttpStatusCode.OK
        );
        await vera.WaitForJobsAsync();
        (await HeldAsync(vera, matter, order)).Count.ShouldBe(3);
        product.Clock.Advance(Duration.FromDays(40));
        (await ines.GetOk("items?state=held")).GetProperty("total").GetInt64().ShouldBe(3);

        // Again, and this time the delay passes: then it falls due by itself.
        (await AskReleaseAsync(vera, matter, order, null)).Status.ShouldBe(HttpStatusCode.OK);
        await AgreeAsync(nils, matter, order, null);
        product.Clock.Advance(Duration.FromDays(30));
        (await ines.GetOk("items?state=held")).GetProperty("total").GetInt64().ShouldBe(3);
        (await vera.Post($"matters/{matter}/state", new { state = "closing", why = "settled" })).Status.ShouldBe(
            HttpStatusCode.OK
        );
        (await vera.Post($"matters/{matter}/state", new { state = "closed", why = "settled" })).Problem.ShouldBe(
            "matter-state"
        );
        product.Clock.Advance(Duration.FromDays(1));
        (await ines.GetOk("items?state=held")).GetProperty("total").GetInt64().ShouldBe(0);
        (await ines.GetOk("items?state=due")).GetProperty("total").GetInt64().ShouldBe(2);
        (await vera.Post($"matters/{matter}/state", new { state = "closed", why = "settled" })).Status.ShouldBe(
            HttpStatusCode.OK
        );

        // Deleted twice asked, by two leads; the ledger remains.
        var number = await NumberAsync(vera, matter);
        (
            await vera.Post(
                $"matters/{matter}/state",
                new
                {
                    state = "deleted",
                    why = "old",
                    word = "yes",
                }
            )
        ).Problem.ShouldBe("word-missing");
        (
            await vera.Post(
                $"matters/{matter}/state",
                new
                {
                    state = "deleted",
                    why = "old",
                    word = number,
                }
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (
            await vera.Post(
                $"matters/{matter}/deletion",
                new
                {
                    state = "deleted",
                    why = "old",
                    word = number,
                }
            )
        ).Problem.ShouldBe("second-person-needed");
        await LetInAsync(vera, matter, "nils", "lead");
        (
            await nils.Post(
                $"matters/{matter}/deletion",
                new
                {
                    state = "deleted",
                    why = "old",
                    word = number,
                }
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await nils.WaitForJobsAsync();
        var deleted = await vera.GetOk($"matters/{matter}");
        (
            deleted.GetProperty("state").GetString(),
            deleted.GetProperty("orders").GetArrayLength(),
            deleted.GetProperty("sweeps").GetArrayLength()
        ).ShouldBe(("deleted", 0, 0));
        (await vera.GetOk($"matters/{matter}/history"))
            .EnumerateArray()
            .Select(e => e.GetProperty("verb").GetString())
            .ShouldContain("released");
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    [Fact]
    public async Task Nobody_but_a_member_learns_that_a_matter_exists()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = await OpenAsync(vera, "Secret pier matter");
        var order = await InForceAsync(
            vera,
            matter,
            "Secret order",
            new
            {
                containers = new[] { containers["Fleet"] },
                custodians = Array.Empty<long>(),
                query = "pier",
                from = (string?)null,
                to = (string?)null,
            }
        );
        await CustodianAsync(vera, matter, "Anna");
        await vera.PostOk(
            $"matters/{matter}/notices",
            new
            {
                kind = "hold",
                subject = "Secret notice",
                body = "Keep it, {name}.",
                questions = Array.Empty<string>(),
                remindDays = 0,
                escalateDays = 0,
                custodians = Array.Empty<long>(),
            }
        );
        var number = (await vera.GetOk($"matters/{matter}")).GetProperty("number").GetString()!;
        foreach (var name in new[] { "ines", "jonas", "maren", "pia", "nils" })
        {
            using var who = await product.SignInAsync(name);
            foreach (
                var path in new[]
                {
                    "matters",
                    "find?q=secret",
                    "today",
                    "ledger?limit=500",
                    "ledger?kind=matter",
                    "ledger?words=secret",
                    "jobs",
                    "messages",
                    "mail-sink",
                    "hold-orders",
                    "proposals",
                    "items?cql=pier",
                    "items/facets",
                    "docket",
                    "directory/people",
                }
            )
            {
                var answer = await who.Get(path);
                $"{answer.Text}".ShouldNotContain("ecret", Case.Sensitive, $"{name} {path}");
                $"{answer.Text}".ShouldNotContain(number, Case.Sensitive, $"{name} {path}");
            }

            foreach (
                var path in new[]
                {
                    "",
                    "/history",
                    "/candidates",
                    $"/orders/{order}/items",
                    "/runs/1/items",
                    "/bundles/1.zip",
                    "/custodians/offers",
                }
            )
            {
                var (known, unknown) = (
                    await who.Get($"matters/{matter}{path}"),
                    await who.Get($"matters/987654{path}")
                );
                (known.Status, known.Text).ShouldBe((unknown.Status, unknown.Text), $"{name} {path}");
                known.Status.ShouldBe(HttpStatusCode.NotFound);
            }

            (
                await who.Post($"matters/{matter}/orders", new { name = "x", definition = Everything(null) })
            ).Status.ShouldBe(HttpStatusCode.NotFound);
            (await who.Post($"matters/{matter}/joining", new { why = "curious" })).Status.ShouldBe(
                HttpStatusCode.Forbidden
            );
        }

        // An export of the ledger proves the place of its entries and says nothing else of them.
        using var ines = await product.SignInAsync("ines");
        var export = (await ines.Get("ledger/export")).Text!;
        export.ShouldNotContain("ecret");
        var (entries, withheld, _) = LedgerExport.Verify(export).Value;
        withheld.ShouldBeGreaterThan(4);
        entries.ShouldBeGreaterThan(withheld);

        // A legal lead may join, and everybody in it can read that he did.
        using var jonas = await product.SignInAsync("jonas");
        await product.AddPersonAsync(jonas, "sven", "legalLead");
        using var sven = await product.SignInAsync("sven");
        (await sven.Get($"matters/{matter}")).Status.ShouldBe(HttpStatusCode.NotFound);
        (await sven.GetOk("matters/others")).ToString().ShouldNotContain("ecret");
        (await sven.Post($"matters/{matter}/joining", new { why = "deputy for Vera" })).Status.ShouldBe(
            HttpStatusCode.OK
        );
        (await vera.GetOk($"matters/{matter}/history"))[0].GetProperty("verb").GetString().ShouldBe("joined");
    }

    [Fact]
    public async Task What_a_hold_keeps_from_falling_due_is_told_by_matter_to_members_and_only_counted_for_others()
    {
        using var vera = await product.SignInAsync("vera");
        using var ines = await product.SignInAsync("ines");
        var matter = await OpenAsync(vera);
        var other = await OpenAsync(vera, "Fog in the sound");
        await InForceAsync(vera, matter, "The collision", Everything("pier"));
        await InForceAsync(
            vera,
            other,
            "The fog",
            new
            {
                containers = new[] { containers["Fleet"] },
                custodians = Array.Empty<long>(),
                query = (string?)null,
                from = (string?)null,
                to = (string?)null,
            }
        );
        var series = await product.SeriesInForceAsync(
            ines,
            "FLT-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(period: "P30Y")
        );

        // Both files of the fleet would fall due; the report is held by both matters, the fog only by one.
        (await ToldAsync()).ShouldBe(("", 2));
        await LetInAsync(vera, matter, "ines", "reader");
        (await ToldAsync()).ShouldBe(($"{await NumberAsync(vera, matter)}: 1", 1));
        (await BehindAsync($"heldBack-{matter}")).ShouldBe("pier report.md");
        (await BehindAsync("heldBack-otherwise")).ShouldBe("fog.md");
        foreach (var group in new[] { $"heldBack-{other}", "heldBack-9999", "heldBack-x", $"sooner-{matter}" })
        {
            (
                await ines.Post($"series/{series}/consequences/{group}", Product.Definition(period: "P1Y"))
            ).Status.ShouldBe(HttpStatusCode.NotFound, group);
        }

        await LetInAsync(vera, other, "ines", "reader");
        (await ToldAsync()).ShouldBe(($"{await NumberAsync(vera, matter)}: 1, {await NumberAsync(vera, other)}: 2", 0));
        (await BehindAsync($"heldBack-{other}")).ShouldBe("fog.md, pier report.md");
        (await BehindAsync($"heldBack-{matter}")).ShouldBe("pier report.md");
        (await BehindAsync("heldBack-otherwise")).ShouldBe("");

        async Task<string> BehindAsync(string group) =>
            string.Join(
                ", ",
                (await ines.PostOk($"series/{series}/consequences/{group}", Product.Definition(period: "P1Y")))
                    .GetProperty("items")
                    .EnumerateArray()
                    .Select(i => i.GetProperty("title").GetString())
                    .Order()
            );

        async Task<(string By, long Otherwise)> ToldAsync()
        {
            var told = await ines.PostOk($"series/{series}/consequences", Product.Definition(period: "P1Y"));
            told.GetProperty("figures").GetProperty("heldBack").GetProperty("items").GetInt64().ShouldBe(2);
            return (
                string.Join(
                    ", ",
                    told.GetProperty("heldBy")
                        .EnumerateArray()
                        .Select(h => $"{h.GetProperty("number").GetString()}: {h.GetProperty("items").GetInt64()}")
                ),
                told.GetProperty("heldOtherwise").GetInt64()
            );
        }
    }

    [Fact]
    public async Task A_group_and_the_groups_within_it_are_members_even_where_they_nest_in_a_circle()
    {
        using var vera = await product.SignInAsync("vera");
        using var nils = await product.SignInAsync("nils");
        using var edvin = await product.SignInAsync("edvin");
        var matter = await OpenAsync(vera);
        (await nils.Get($"matters/{matter}")).Status.ShouldBe(HttpStatusCode.NotFound);
        await LetInAsync(vera, matter, "Council", "reader");
        (await nils.GetOk($"matters/{matter}")).GetProperty("part").GetString().ShouldBe("reader");
        (
            await nils.Post($"matters/{matter}/sweeps", new { name = "x", definition = Everything(null) })
        ).Problem.ShouldBe("not-allowed");
        // A steward of the same group may not open matters, so the group lets him into none.
        (await edvin.Get($"matters/{matter}")).Status.ShouldBe(HttpStatusCode.NotFound);
        var member = (await vera.GetOk($"matters/{matter}"))
            .GetProperty("members")
            .EnumerateArray()
            .Single(m => m.GetProperty("isGroup").GetBoolean())
            .GetProperty("id")
            .GetInt64();
        (await vera.Delete($"matters/{matter}/members/{member}")).Status.ShouldBe(HttpStatusCode.OK);
        (await nils.Get($"matters/{matter}")).Status.ShouldBe(HttpStatusCode.NotFound);
        var self = (await vera.GetOk($"matters/{matter}")).GetProperty("members")[0].GetProperty("id").GetInt64();
        (await vera.Delete($"matters/{matter}/members/{self}")).Problem.ShouldBe("last-lead");
    }

    [Fact]
    public async Task Narrowing_an_order_in_force_is_a_release_of_the_difference_and_a_pin_stays()
    {
        using var vera = await product.SignInAsync("vera");
        using var nils = await product.SignInAsync("nils");
        var matter = await OpenAsync(vera);
        await LetInAsync(vera, matter, "nils", "reviewer");
        var wide = new
        {
            containers = containers.Values.ToArray(),
            custodians = Array.Empty<long>(),
            query = (string?)null,
            from = (string?)null,
            to = (string?)null,
        };
        var order = await InForceAsync(vera, matter, "Wide", wide);
        var fog = (await vera.GetOk("items?cql=title=fog")).GetProperty("items")[0].GetProperty("id").GetInt64();
        (
            await vera.Post(
                $"matters/{matter}/orders/{order}/pins",
                new
                {
                    items = new[] { fog },
                    selection = (object?)null,
                    why = "asked for",
                },
                await RevisionAsync(vera, matter, order)
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (
            await vera.Post(
                $"matters/{matter}/orders/{order}/pins",
                new
                {
                    items = (long[]?)null,
                    selection = new { cql = "nowhere" },
                    why = "x",
                },
                await RevisionAsync(vera, matter, order)
            )
        ).Problem.ShouldBe("items-missing");

        var narrow = new
        {
            wide.containers,
            wide.custodians,
            query = "dolphin",
            wide.from,
            wide.to,
        };
        await SaveDraftAsync(vera, matter, order, "Wide", narrow);
        var consequences = await vera.PostOk($"matters/{matter}/orders/{order}/consequences", narrow);
        consequences.GetProperty("leaving").GetProperty("items").GetInt64().ShouldBe(2);
        // Each figure opens into as many items as it says, and only for members.
        long Figure(string name) =>
            consequences.GetProperty(name) is { ValueKind: JsonValueKind.Object } tally
                ? tally.GetProperty("items").GetInt64()
                : consequences.GetProperty(name).GetInt64();
        foreach (var name in new[] { "found", "newly", "alsoHeld", "dueToday", "onDocket", "leaving" })
        {
            (await vera.PostOk($"matters/{matter}/orders/{order}/consequences/{name}", narrow))
                .GetProperty("total")
                .GetInt64()
                .ShouldBe(Figure(name), name);
        }

        foreach (var place in consequences.GetProperty("byContainer").EnumerateArray())
        {
            (
                await vera.PostOk(
                    $"matters/{matter}/orders/{order}/consequences/found?container={place.GetProperty("id").GetInt64()}",
                    narrow
                )
            )
                .GetProperty("total")
                .GetInt64()
                .ShouldBe(place.GetProperty("items").GetInt64());
        }

        (await vera.Post($"matters/{matter}/orders/{order}/consequences/everything", narrow)).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
        using (var ines = await product.SignInAsync("ines"))
        {
            (await ines.Post($"matters/{matter}/orders/{order}/consequences/found", narrow)).Status.ShouldBe(
                HttpStatusCode.NotFound
            );
        }

        (
            await vera.Post(
                $"matters/{matter}/orders/{order}/activation",
                new { fingerprint = consequences.GetProperty("fingerprint").GetString(), why = "less" },
                await RevisionAsync(vera, matter, order)
            )
        ).Problem.ShouldBe("order-narrower");
        (await AskReleaseAsync(vera, matter, order, narrow)).Status.ShouldBe(HttpStatusCode.OK);
        await AgreeAsync(nils, matter, order, narrow);
        await vera.WaitForJobsAsync();
        (await HeldAsync(vera, matter, order)).ShouldBe(["dolphin.md", "fog.md"]);
        (await vera.GetOk("items?state=held")).GetProperty("total").GetInt64().ShouldBe(4);
        product.Clock.Advance(Duration.FromDays(31));
        (await vera.GetOk("items?state=held")).GetProperty("total").GetInt64().ShouldBe(2);
    }

    [Fact]
    public async Task Releasing_one_order_never_frees_what_another_keeps()
    {
        using var vera = await product.SignInAsync("vera");
        using var nils = await product.SignInAsync("nils");
        var random = new Random(7);
        var matter = await OpenAsync(vera);
        await LetInAsync(vera, matter, "nils", "reviewer");
        for (var i = 0; i < 40; i++)
        {
            product.Write($"Fleet/item {i}.md", "2015-01-01", $"w{i % 2} x{i % 3} y{i % 5}");
        }

        await product.ScanAsync();
        Dictionary<long, HashSet<string>> keeps = [];
        for (var i = 0; i < 8; i++)
        {
            var query = string.Join(
                random.Next(2) == 0 ? " or " : " and ",
                new[] { $"w{random.Next(2)}", $"x{random.Next(3)}", $"y{random.Next(5)}" }.Take(1 + random.Next(3))
            );
            var order = await InForceAsync(
                vera,
                matter,
                query,
                new
                {
                    containers = new[] { containers["Fleet"] },
                    custodians = Array.Empty<long>(),
                    query,
                    from = (string?)null,
                    to = (string?)null,
                }
            );
            keeps[order] = [.. await HeldAsync(vera, matter, order)];
        }

        foreach (var order in keeps.Keys.OrderBy(_ => random.Next()).ToList())
        {
            (await AskReleaseAsync(vera, matter, order, null)).Status.ShouldBe(HttpStatusCode.OK);
            await AgreeAsync(nils, matter, order, null);
            keeps.Remove(order);
            product.Clock.Advance(Duration.FromDays(31));
            var held = (await vera.GetOk("items?state=held&limit=500"))
                .GetProperty("items")
                .EnumerateArray()
                .Select(i => i.GetProperty("title").GetString()!)
                .ToHashSet();
            held.ShouldBe(keeps.Values.SelectMany(k => k).ToHashSet(), ignoreOrder: true);
        }
    }

    [Fact]
    public async Task An_order_keeps_the_same_whichever_way_it_is_looked_for_and_nothing_that_was_destroyed()
    {
        using var vera = await product.SignInAsync("vera");
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        var series = await product.SeriesInForceAsync(
            ines,
            "FLT-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(period: "P5Y")
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, batch);
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        // The stub is still found by the words of its title.
        (await ines.GetOk("items?cql=pier"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(2);

        var matter = await OpenAsync(vera);
        long[] places = [containers["Fleet"], containers["Northern"]];
        foreach (
            var (query, reach) in new[]
            {
                ("pier", (long[])[]),
                ("pier", places),
                ("pier and type = md", []),
                ("pier and type = md", places),
            }
        )
        {
            var order = await InForceAsync(
                vera,
                matter,
                $"{query} in {reach.Length} places",
                new
                {
                    containers = reach,
                    custodians = Array.Empty<long>(),
                    query,
                    from = (string?)null,
                    to = (string?)null,
                }
            );
            (await HeldAsync(vera, matter, order)).ShouldBe(["notes.md"]);
        }
    }

    [Fact]
    public async Task An_item_that_is_held_between_the_signature_and_the_execution_survives()
    {
        using var vera = await product.SignInAsync("vera");
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        var series = await product.SeriesInForceAsync(
            ines,
            "FLT-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(period: "P5Y")
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, batch);
        var matter = await OpenAsync(vera);
        await InForceAsync(
            vera,
            matter,
            "Just in time",
            new
            {
                containers = new[] { containers["Fleet"] },
                custodians = Array.Empty<long>(),
                query = "pier",
                from = (string?)null,
                to = (string?)null,
            }
        );
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        var done = await ines.GetOk($"batches/{batch}");
        (done.GetProperty("destroyed").GetInt32(), done.GetProperty("droppedOut").GetInt32()).ShouldBe((1, 1));
        File.Exists(Path.Combine(product.Share, "Fleet/pier report.md")).ShouldBeTrue();
        File.Exists(Path.Combine(product.Share, "Fleet/fog.md")).ShouldBeFalse();
        (await ines.GetOk($"batches/{batch}/lines")).ToString().ShouldContain("kept for another reason");
    }

    [Fact]
    public async Task An_order_protects_from_its_commit_on_before_anything_of_it_was_written_down()
    {
        using var vera = await product.SignInAsync("vera");
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        var series = await product.SeriesInForceAsync(
            ines,
            "FLT-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(period: "P5Y")
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        var matter = await OpenAsync(vera);
        var order = await InForceAsync(
            vera,
            matter,
            "Not applied yet",
            new
            {
                containers = new[] { containers["Fleet"] },
                custodians = Array.Empty<long>(),
                query = "pier",
                from = (string?)null,
                to = (string?)null,
            }
        );
        await using (var db = product.Database())
        {
            await db.HoldItems.ExecuteDeleteAsync(Stop);
            await db
                .HoldOrders.Where(o => o.Id == order)
                .ExecuteUpdateAsync(set => set.SetProperty(o => o.AppliedAt, (Instant?)null), Stop);
        }

        await Product.SignAsync(ines, batch);
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        File.Exists(Path.Combine(product.Share, "Fleet/pier report.md")).ShouldBeTrue();
    }

    [Fact]
    public async Task A_custodian_is_told_reminded_and_heard_and_the_manager_learns_of_silence()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = await OpenAsync(vera);
        await CustodianAsync(vera, matter, "Anna");
        object Notice(string body) =>
            new
            {
                kind = "hold",
                subject = "Keep {matter}",
                body,
                questions = new[] { "Where?" },
                remindDays = 7,
                escalateDays = 10,
                custodians = Array.Empty<long>(),
            };
        (await vera.Post($"matters/{matter}/notices", Notice("Dear {nobody}"))).Problem.ShouldBe("field-unknown");
        await vera.PostOk($"matters/{matter}/notices", Notice("Dear {name}, keep it. {from}"));
        var token = await TokenAsync(1);
        using var anna = await Api.ConnectAsync(product.Address);
        var page = await anna.GetOk($"notices/{token}");
        (page.GetProperty("name").GetString(), page.GetProperty("notices")[0].GetProperty("body").GetString()).ShouldBe(
            ("Anna Brand", "Dear Anna Brand, keep it. vera")
        );
        (await anna.Get($"notices/{new string('0', 48)}")).Status.ShouldBe(HttpStatusCode.NotFound);
        var copy = page.GetProperty("notices")[0].GetProperty("id").GetInt64();

        // Eight days later a reminder, eleven days later the manager.
        product.Clock.Advance(Duration.FromDays(8));
        await Product.UntilAsync(async () => (await Custodian()).GetProperty("reminders").GetInt32() == 1);
        product.Clock.Advance(Duration.FromDays(3));
        await Product.UntilAsync(async () =>
            (await Custodian()).GetProperty("escalatedAt").ValueKind != JsonValueKind.Null
        );
        using var edvin = await product.SignInAsync("edvin");
        await using (var db = product.Database())
        {
            (
                await db
                    .Messages.Where(m => m.ToMail == "edvin@tarn.example" && m.Kind != "invitation")
                    .Select(m => m.Subject)
                    .ToListAsync(Stop)
            ).ShouldBe(["Anna Brand has not acknowledged a notice"]);
        }

        await product.ProveAsync(anna, token);
        (
            await anna.Post($"notices/{token}/{copy}/acknowledgement", new { answers = Array.Empty<string>() })
        ).Problem.ShouldBe("answers-missing");
        await anna.PostOk($"notices/{token}/{copy}/opening", new { });
        await anna.PostOk($"notices/{token}/{copy}/acknowledgement", new { answers = new[] { "In the log." } });
        (await Custodian()).GetProperty("acknowledgedAt").ValueKind.ShouldBe(JsonValueKind.String);

        // A new version is acknowledged anew; the old one no longer is.
        await vera.PostOk($"matters/{matter}/notices", Notice("Dear {name}, more of it."));
        (await Custodian()).GetProperty("acknowledgedAt").ValueKind.ShouldBe(JsonValueKind.Null);
        var letters = (await anna.GetOk($"notices/{await TokenAsync(2)}"))
            .GetProperty("notices")
            .EnumerateArray()
            .Select(n => (n.GetProperty("version").GetInt32(), n.GetProperty("superseded").GetBoolean()))
            .ToList();
        letters.ShouldBe([(2, false), (1, true)]);
        (await vera.GetOk($"matters/{matter}"))
            .GetProperty("warnings")
            .ToString()
            .ShouldContain("leaves on 29 Jun 2026");

        async Task<JsonElement> Custodian() => (await vera.GetOk($"matters/{matter}")).GetProperty("custodians")[0];

        async Task<string> TokenAsync(int version)
        {
            await using var db = product.Database();
            var copy = await db
                .NoticeCopies.Include(c => c.Custodian!.Person)
                .SingleAsync(c => c.Notice!.Version == version, Stop);
            return await product.LinkAsync(LinkKind.Notice, copy.Id, copy.Custodian!.Person!.Mail);
        }
    }

    [Fact]
    public async Task A_sweep_counts_by_term_place_and_custodian_and_tells_what_changed_between_runs()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = await OpenAsync(vera);
        var custodian = await CustodianAsync(vera, matter, "Anna");
        var definition = new
        {
            containers = new[] { containers["Fleet"], containers["Island"] },
            custodians = new[] { custodian },
            query = "\"pier 4\" or dolphin",
            from = (string?)null,
            to = (string?)null,
        };
        (
            await vera.Post(
                $"matters/{matter}/sweeps",
                new
                {
                    name = "x",
                    definition = new
                    {
                        definition.containers,
                        definition.custodians,
                        query = "pier and (",
                        definition.from,
                        definition.to,
                    },
                }
            )
        ).Body.GetProperty("at").GetInt32().ShouldBe(10);
        var sweep = (await vera.PostOk($"matters/{matter}/sweeps", new { name = "All", definition }))
            .GetProperty("sweeps")[0]
            .GetProperty("id")
            .GetInt64();
        var first = await RunAsync();
        (first.GetProperty("items").GetInt64(), first.GetProperty("figures").GetProperty("added").ValueKind).ShouldBe(
            (3, JsonValueKind.Null)
        );
        first
            .GetProperty("figures")
            .GetProperty("byTerm")
            .EnumerateArray()
            .Select(t =>
                (
                    t.GetProperty("term").GetString(),
                    t.GetProperty("alone").GetInt64(),
                    t.GetProperty("found").GetInt64(),
                    t.GetProperty("only").GetInt64()
                )
            )
            .ShouldBe([("\"pier 4\"", 2, 2, 2), ("dolphin", 1, 1, 1)]);
        first.GetProperty("figures").GetProperty("byCustodian")[0].GetProperty("items").GetInt64().ShouldBe(2);
        first.GetProperty("figures").GetProperty("byContainer").GetArrayLength().ShouldBe(3);
        var id = first.GetProperty("id").GetInt64();
        var marked = (await vera.GetOk($"matters/{matter}/runs/{id}/items?term=1")).GetProperty("items");
        (marked.GetArrayLength(), marked[0].GetProperty("title").GetString()).ShouldBe((1, "dolphin.md"));
        marked[0].GetProperty("found").GetProperty("snippetMarks").GetArrayLength().ShouldBe(1);
        (await vera.GetOk($"matters/{matter}/runs/{id}/items?custodian={custodian}"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(2);
        // Each figure of a term opens into as many items as it says.
        foreach (
            var (at, scope, expected) in new[]
            {
                (0, "found", 2),
                (0, "only", 2),
                (0, "alone", 2),
                (1, "only", 1),
                (1, "alone", 1),
            }
        )
        {
            (await vera.GetOk($"matters/{matter}/runs/{id}/items?term={at}&scope={scope}"))
                .GetProperty("total")
                .GetInt64()
                .ShouldBe(expected, $"{at} {scope}");
        }

        // What is asked for and cannot be is refused, not answered with something else.
        foreach (
            var (asked, problem) in new[]
            {
                ("term=0&scope=both", "scope-unknown"),
                ("scope=only", "scope-unknown"),
                ("term=2", "not-found"),
                ($"term=0&scope=alone&custodian={custodian}", "scope-alone"),
            }
        )
        {
            (await vera.Get($"matters/{matter}/runs/{id}/items?{asked}")).Problem.ShouldBe(problem, asked);
        }

        product.Write("Fleet/more.md", "2026-06-01", "pier 4 and the dolphin");
        File.WriteAllText(Path.Combine(product.Share, "Fleet/pier report.md"), "nothing now");
        await product.ScanAsync();
        var second = await RunAsync();
        (
            second.GetProperty("figures").GetProperty("added").GetInt64(),
            second.GetProperty("figures").GetProperty("gone").GetInt64()
        ).ShouldBe((1, 1));
        (await vera.GetOk($"matters/{matter}/runs/{second.GetProperty("id").GetInt64()}/items?change=gone"))
            .GetProperty("items")[0]
            .GetProperty("title")
            .GetString()
            .ShouldBe("pier report.md");
        // A word in both terms is found by both and by neither alone.
        (await vera.GetOk($"matters/{matter}/runs/{second.GetProperty("id").GetInt64()}/items?term=0&scope=found"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(2);
        (await vera.GetOk($"matters/{matter}/runs/{second.GetProperty("id").GetInt64()}/items?term=0&scope=only"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(1);
        (await vera.GetOk($"matters/{matter}/runs/{second.GetProperty("id").GetInt64()}/items?term=1&scope=only"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(1);
        var csv = (await vera.Get($"matters/{matter}/runs/{second.GetProperty("id").GetInt64()}/items.csv")).Text!;
        csv.Split("\r\n", StringSplitOptions.RemoveEmptyEntries).Length.ShouldBe(4);

        async Task<JsonElement> RunAsync()
        {
            await vera.PostOk($"matters/{matter}/sweeps/{sweep}/runs", new { });
            await vera.WaitForJobsAsync();
            return (await vera.GetOk($"matters/{matter}")).GetProperty("sweeps")[0].GetProperty("last");
        }
    }

    [Fact]
    public async Task What_could_not_be_read_in_the_places_of_a_sweep_is_counted_and_listed_and_nothing_beside_them()
    {
        using var vera = await product.SignInAsync("vera");
        using var nils = await product.SignInAsync("nils");
        var matter = await OpenAsync(vera);
        foreach (var (folder, name) in new[] { ("Fleet", "way out"), ("Northern", "another") })
        {
            File.CreateSymbolicLink(Path.Combine(product.Share, folder, name), "/etc");
        }

        await product.ScanAsync();
        var definition = new
        {
            containers = new[] { containers["Fleet"] },
            custodians = Array.Empty<long>(),
            query = "pier",
            from = (string?)null,
            to = (string?)null,
        };
        var sweep = (await vera.PostOk($"matters/{matter}/sweeps", new { name = "Fleet", definition }))
            .GetProperty("sweeps")[0]
            .GetProperty("id")
            .GetInt64();
        await vera.PostOk($"matters/{matter}/sweeps/{sweep}/runs", new { });
        await vera.WaitForJobsAsync();
        var run = (await vera.GetOk($"matters/{matter}")).GetProperty("sweeps")[0].GetProperty("last");
        run.GetProperty("figures").GetProperty("unreadable").GetInt64().ShouldBe(1);
        var file = (await vera.GetOk($"matters/{matter}/runs/{run.GetProperty("id").GetInt64()}/unreadable"))
            .EnumerateArray()
            .Single();
        (
            file.GetProperty("path").GetString(),
            file.GetProperty("reason").GetString()!.Contains("a link", StringComparison.Ordinal)
        ).ShouldBe(("Fleet/way out", true));
        (await nils.Get($"matters/{matter}/runs/{run.GetProperty("id").GetInt64()}/unreadable")).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    /// <summary>The rows of a bundle's load file, each by its columns.</summary>
    private async Task<List<Dictionary<string, string>>> LoadedAsync(Api who, long matter, long order)
    {
        var bundle = await BundleAsync(who, matter, order, mbox: false, onePerContent: false, attachments: false);
        var folder = await UnpackAsync(who, matter, bundle.GetProperty("id").GetInt64());
        Outside("sha256sum", ["-c", "--quiet", "manifest-sha256.txt"], folder).ShouldBe((0, ""));
        var lines = await File.ReadAllLinesAsync(Path.Combine(folder, "data/load.csv"), Stop);
        var names = lines[0].Split(',');
        return
        [
            .. lines
                .Skip(1)
                .Select(l => names.Zip(l.Split(',')).ToDictionary(c => c.First, c => c.Second))
                .Select(r =>
                {
                    r["content"] = File.ReadAllText(Path.Combine(folder, r["file"]));
                    return r;
                }),
        ];
    }

    /// <summary>A memo that an order holds, overwritten twice with words that the order does not ask for.</summary>
    private async Task<(long Matter, long Order)> OverwrittenAsync(Api vera)
    {
        var matter = await OpenAsync(vera);
        var order = await InForceAsync(vera, matter, "Pier", Everything("\"pier 4\""));
        await vera.WaitForJobsAsync();
        foreach (var words in new[] { "nothing of the kind", "and again something else" })
        {
            product.Clock.AdvanceDays(1);
            product.Write("Fleet/pier report.md", "2020-01-01", words);
            await product.ScanAsync();
            // The copy of it is a job of the matter, of which whoever scans sees nothing.
            await vera.WaitForJobsAsync();
        }

        return (matter, order);
    }

    [Fact]
    public async Task Every_content_that_a_held_file_has_had_is_in_the_bundle()
    {
        using var vera = await product.SignInAsync("vera");
        var (matter, order) = await OverwrittenAsync(vera);
        var contents = (await LoadedAsync(vera, matter, order))
            .Where(r => r["path"] == "Fleet/pier report.md")
            .Select(r => r["content"])
            .ToList();
        contents.Count.ShouldBe(3);
        contents.ShouldContain(c => c.Contains("pier 4"));
        contents.ShouldContain(c => c.Contains("nothing of the kind"));
    }

    [Fact]
    public async Task They_are_there_still_when_the_file_was_deleted()
    {
        using var vera = await product.SignInAsync("vera");
        var (matter, order) = await OverwrittenAsync(vera);
        File.Delete(Path.Combine(product.Share, "Fleet/pier report.md"));
        await product.ScanAsync();
        (await LoadedAsync(vera, matter, order)).Count(r => r["path"] == "Fleet/pier report.md").ShouldBe(3);
    }

    [Fact]
    public async Task A_former_content_says_since_when_it_was_kept()
    {
        using var vera = await product.SignInAsync("vera");
        var (matter, order) = await OverwrittenAsync(vera);
        (await LoadedAsync(vera, matter, order))
            .Where(r => r["version_from"].Length > 0)
            .Select(r => r["id"].Split('.')[^1])
            .ShouldBe(["v1", "v2"]);
    }

    internal static string Letter(string id, string body) =>
        $"From anna@tarn.example Wed Mar  4 09:30:00 2020\nFrom: Anna Brand <anna@tarn.example>\n"
        + $"To: bo@tarn.example\nCc: cy@tarn.example\nSubject: Pier {id}\n"
        + $"Date: Wed, 04 Mar 2020 09:30:00 +0000\nMessage-ID: <{id}@tarn.example>\nMIME-Version: 1.0\n"
        + $"Content-Type: multipart/mixed; boundary=\"b\"\n\n--b\nContent-Type: text/plain\n\n{body}\n"
        + $"From here on\n--b\nContent-Type: text/plain; name=\"sheet.csv\"\n"
        + $"Content-Disposition: attachment; filename=\"sheet.csv\"\n\na,b\n--b--\n\n";

    private async Task ConnectMailAsync(string mail)
    {
        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk(
            "sources",
            new
            {
                name = "Mail",
                root = mail,
                kind = "mail",
            }
        );
        await jonas.WaitForJobsAsync();
    }

    /// <summary>A bundle of what an order holds, as it is shown once it is made.</summary>
    private static async Task<JsonElement> BundleAsync(
        Api who,
        long matter,
        long order,
        bool mbox,
        bool onePerContent,
        bool attachments
    )
    {
        await who.PostOk(
            $"matters/{matter}/bundles",
            new
            {
                name = "First",
                options = new
                {
                    runId = (long?)null,
                    orderId = order,
                    mbox,
                    onePerContent,
                    attachments,
                },
            }
        );
        await who.WaitForJobsAsync();
        return (await who.GetOk($"matters/{matter}")).GetProperty("bundles")[0];
    }

    private async Task<string> UnpackAsync(Api who, long matter, long bundle)
    {
        var zip = await who.Http.GetByteArrayAsync(
            new Uri($"matters/{matter}/bundles/{bundle}.zip", UriKind.Relative),
            Stop
        );
        var folder = Directory.CreateDirectory(Path.Combine(product.Folder, "out")).FullName;
        System.IO.Compression.ZipFile.ExtractToDirectory(new MemoryStream(zip), folder);
        return Directory.GetDirectories(folder).Single();
    }

    [Fact]
    public async Task Another_content_under_the_same_message_id_differs_and_is_never_left_out()
    {
        var mail = Directory.CreateDirectory(Path.Combine(product.Folder, "mail")).FullName;
        await File.WriteAllTextAsync(Path.Combine(mail, "anna.mbox"), Letter("one", "pier 4, as sent"), Stop);
        await File.WriteAllTextAsync(Path.Combine(mail, "copy.mbox"), Letter("one", "pier 4, forged"), Stop);
        await ConnectMailAsync(mail);
        using var vera = await product.SignInAsync("vera");
        var matter = await OpenAsync(vera);
        var order = await InForceAsync(vera, matter, "All", Everything("\"pier 4\" and type = eml"));
        var bundle = await BundleAsync(vera, matter, order, mbox: false, onePerContent: true, attachments: false);
        var folder = await UnpackAsync(vera, matter, bundle.GetProperty("id").GetInt64());
        (await File.ReadAllLinesAsync(Path.Combine(folder, "data/duplicates.csv"), Stop))
            .Skip(1)
            .Select(l => l.Split(','))
            .Select(l => (l[1], l[4], l[5].Length > 0))
            .ShouldBe([("", "no", true)]);
    }

    /// <summary>
    /// Manifests by sha256sum, mailbox by Python's mailbox module, custody by the export's own check: tools outside the
    /// product's reading.
    /// </summary>
    [Fact]
    public async Task A_bundle_is_accepted_by_outside_tools_and_numbers_whole_families()
    {
        var mail = Directory.CreateDirectory(Path.Combine(product.Folder, "mail")).FullName;
        await File.WriteAllTextAsync(
            Path.Combine(mail, "anna.mbox"),
            Letter("one", "pier 4") + Letter("two", "pier 4"),
            Stop
        );
        await File.WriteAllTextAsync(Path.Combine(mail, "copy.mbox"), Letter("one", "pier 4"), Stop);
        await ConnectMailAsync(mail);
        using var vera = await product.SignInAsync("vera");
        var matter = await OpenAsync(vera);
        var view = await vera.GetOk($"matters/{matter}");
        (
            await vera.Put(
                $"matters/{matter}",
                new
                {
                    name = "Pier",
                    description = "",
                    kind = "litigation",
                    delayDays = 30,
                    controlPrefix = "PIER-",
                    bundleDays = 100,
                },
                view.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await CustodianAsync(vera, matter, "Anna");
        var order = await InForceAsync(vera, matter, "All", Everything("pier"));
        var bundle = await BundleAsync(vera, matter, order, mbox: true, onePerContent: true, attachments: true);
        (
            bundle.GetProperty("items").GetInt64(),
            bundle.GetProperty("documents").GetInt64(),
            bundle.GetProperty("left").GetInt64()
        ).ShouldBe((5, 6, 0), bundle.ToString());
        var folder = await UnpackAsync(vera, matter, bundle.GetProperty("id").GetInt64());
        Outside("sha256sum", ["-c", "--quiet", "manifest-sha256.txt"], folder).ShouldBe((0, ""));
        Outside("sha256sum", ["-c", "--quiet", "tagmanifest-sha256.txt"], folder).ShouldBe((0, ""));
        (await File.ReadAllTextAsync(Path.Combine(folder, "bagit.txt"), Stop)).ShouldBe(
            "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"
        );
        var load = await File.ReadAllLinesAsync(Path.Combine(folder, "data/load.csv"), Stop);
        load[0]
            .ShouldBe(
                "id,family,custodian,container,path,created,modified,author,to,subject,"
                    + "sha256,file,text,message_id,duplicate_of,version_from,cc,bcc,sent,family_first,family_last,"
                    + "text_status,all_custodians,tags"
            );
        var rows = load.Skip(1).Select(l => l.Split(',')).ToList();
        rows.Count(r => r[0] == r[1]).ShouldBe(5);
        rows.Where(r => r[0] != r[1]).ShouldAllBe(r => r[9] == "sheet.csv");
        rows.Single(r => r[13] == "one@tarn.example" && r[14].Length > 0)[11].ShouldBe("");
        rows.First(r => r[13] == "one@tarn.example")[8].ShouldBe("bo@tarn.example");
        rows.First(r => r[13] == "one@tarn.example")[16].ShouldBe("cy@tarn.example");
        rows.First(r => r[13] == "one@tarn.example")[18].ShouldBe("2020-03-04T09:30:00+00:00");
        rows.First(r => r[13] == "one@tarn.example" && r[11].Length > 0)[19..21]
            .ShouldBe(["PIER-000003", "PIER-000004"]);
        rows.ShouldContain(r => r[2] == "Anna Brand");
        var (code, subjects) = Outside(
            "python3",
            [
                "-c",
                "import mailbox\nfor m in mailbox.mbox('data/mail.mbox'): print(m['subject'], len(m.get_payload()), m.get_from())",
            ],
            folder
        );
        (code, subjects).ShouldBe(
            (
                0,
                "Pier one 2 anna@tarn.example Wed Mar  4 09:30:00 2020\n"
                    + "Pier two 2 anna@tarn.example Wed Mar  4 09:30:00 2020\n"
            )
        );
        LedgerExport
            .Verify(await File.ReadAllTextAsync(Path.Combine(folder, "metadata/custody.json"), Stop))
            .Value.Entries.ShouldBeGreaterThan(0);
        (await vera.GetOk($"matters/{matter}")).GetProperty("nextControl").GetInt64().ShouldBe(1 + 2 + (3 * 2));
    }

    [Fact]
    public async Task A_bundle_takes_what_was_held_from_safekeeping_where_the_source_holds_something_else_and_lists_what_is_nowhere()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = await OpenAsync(vera);
        var order = await InForceAsync(vera, matter, "All", Everything("pier or dolphin"));
        var sweep = (
            await vera.PostOk(
                $"matters/{matter}/sweeps",
                new { name = "All", definition = Everything("pier or dolphin") }
            )
        )
            .GetProperty("sweeps")[0]
            .GetProperty("id")
            .GetInt64();
        await vera.PostOk($"matters/{matter}/sweeps/{sweep}/runs", new { });
        await vera.WaitForJobsAsync();
        (await HeldAsync(vera, matter, order)).ShouldBe(["dolphin.md", "notes.md", "pier report.md"]);

        // One is written over, one deleted, and the copy of a third one is lost along with its file; no scan has seen
        // it yet.
        var original = await File.ReadAllTextAsync(Path.Combine(product.Share, "Fleet/pier report.md"), Stop);
        product.Write("Fleet/pier report.md", "2015-03-01", "written over");
        File.Delete(Path.Combine(product.Share, "Island/dolphin.md"));
        File.Delete(Path.Combine(product.Share, "Northern/notes.md"));
        var notes = (await vera.GetOk("items?cql=title=notes")).GetProperty("items")[0].GetProperty("id").GetInt64();
        var hash = (await vera.GetOk($"items/{notes}/copies"))[0].GetProperty("hash").GetString()!;
        File.Delete(
            Directory.GetFiles(Path.Combine(product.Data, "safekeeping"), hash, SearchOption.AllDirectories).Single()
        );

        var run = (await vera.GetOk($"matters/{matter}"))
            .GetProperty("sweeps")[0]
            .GetProperty("last")
            .GetProperty("id")
            .GetInt64();
        await vera.PostOk(
            $"matters/{matter}/bundles",
            new
            {
                name = "All",
                options = new
                {
                    runId = run,
                    orderId = (long?)null,
                    mbox = false,
                    onePerContent = false,
                    attachments = true,
                },
            }
        );
        await vera.WaitForJobsAsync();
        var bundle = (await vera.GetOk($"matters/{matter}")).GetProperty("bundles")[0];
        (
            bundle.GetProperty("state").GetString(),
            bundle.GetProperty("documents").GetInt64(),
            bundle.GetProperty("left").GetInt64()
        ).ShouldBe(("done", 2, 1), bundle.ToString());
        var bag = Path.Combine(product.Data, "bundles", "matter-1", "data");
        var originals = Directory.GetFiles(Path.Combine(bag, "originals")).Select(File.ReadAllText).ToList();
        originals.Count.ShouldBe(2);
        originals.ShouldContain(original);
        originals.ShouldNotContain(o => o.Contains("written over", StringComparison.Ordinal));
        (await File.ReadAllLinesAsync(Path.Combine(bag, "exceptions.csv"), Stop))
            .Skip(1)
            .ShouldBe([$"{notes},,Northern/notes.md,Its content is neither at its source nor in safekeeping."]);
    }

    [Fact]
    public async Task A_matter_that_is_closing_or_closed_begins_nothing_new_until_it_is_opened_again()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = await OpenAsync(vera);
        var order = (
            await vera.PostOk($"matters/{matter}/orders", new { name = "Draft", definition = Everything("pier") })
        )
            .GetProperty("orders")[0]
            .GetProperty("id")
            .GetInt64();
        var fingerprint = (await vera.PostOk($"matters/{matter}/orders/{order}/consequences", Everything("pier")))
            .GetProperty("fingerprint")
            .GetString();
        foreach (var state in new[] { "closing", "closed" })
        {
            await vera.PostOk($"matters/{matter}/state", new { state, why = "settled" });
            (
                await vera.Post($"matters/{matter}/orders", new { name = "Late", definition = Everything("fog") })
            ).Problem.ShouldBe("matter-not-open");
            (
                await vera.Post($"matters/{matter}/sweeps", new { name = "Late", definition = Everything("fog") })
            ).Problem.ShouldBe("matter-not-open");
            (
                await vera.Put(
                    $"matters/{matter}/orders/{order}/draft",
                    new { name = "Draft", definition = Everything("fog") },
                    await RevisionAsync(vera, matter, order)
                )
            ).Problem.ShouldBe("matter-not-open");
            (
                await vera.Post(
                    $"matters/{matter}/orders/{order}/activation",
                    new { fingerprint, why = "late" },
                    await RevisionAsync(vera, matter, order)
                )
            ).Problem.ShouldBe("matter-not-open");
            (await vera.GetOk($"matters/{matter}/orders/{order}/items")).GetProperty("total").GetInt64().ShouldBe(0);
        }

        await vera.PostOk($"matters/{matter}/state", new { state = "open", why = "appealed" });
        (
            await vera.Post(
                $"matters/{matter}/orders/{order}/activation",
                new { fingerprint, why = "again" },
                await RevisionAsync(vera, matter, order)
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await vera.WaitForJobsAsync();
        (await HeldAsync(vera, matter, order)).ShouldContain("pier report.md");
        (await vera.GetOk($"matters/{matter}/history"))
            .EnumerateArray()
            .Select(e => e.GetProperty("verb").GetString())
            .ShouldContain("matter-open");
    }

    [Fact]
    public async Task A_closing_matter_still_releases_what_it_holds_and_takes_no_pins()
    {
        using var vera = await product.SignInAsync("vera");
        using var nils = await product.SignInAsync("nils");
        var matter = await OpenAsync(vera);
        await LetInAsync(vera, matter, "nils", "reviewer");
        var order = await InForceAsync(vera, matter, "Pier", Everything("pier"));
        var fog = (await vera.GetOk("items?cql=title=fog")).GetProperty("items")[0].GetProperty("id").GetInt64();
        (await vera.GetOk("hold-orders")).GetArrayLength().ShouldBe(1);
        await vera.PostOk($"matters/{matter}/state", new { state = "closing", why = "settled" });
        // Nothing offers the order for pinning, and whoever knows it is refused.
        (await vera.GetOk("hold-orders"))
            .GetArrayLength()
            .ShouldBe(0);
        (
            await vera.Post(
                $"matters/{matter}/orders/{order}/pins",
                new
                {
                    items = new[] { fog },
                    selection = (object?)null,
                    why = "late",
                },
                await RevisionAsync(vera, matter, order)
            )
        ).Problem.ShouldBe("matter-not-open");
        var refused = await vera.Post($"matters/{matter}/state", new { state = "closed", why = "settled" });
        (
            refused.Problem,
            refused.Body.ToString().Contains("One hold order is still in force", StringComparison.Ordinal)
        ).ShouldBe(("matter-state", true));
        (await AskReleaseAsync(vera, matter, order, null)).Status.ShouldBe(HttpStatusCode.OK);
        (await vera.Post($"matters/{matter}/state", new { state = "closed", why = "settled" }))
            .Body.ToString()
            .ShouldContain("second person");
        await AgreeAsync(nils, matter, order, null);
        product.Clock.Advance(Duration.FromDays(31));
        await vera.PostOk($"matters/{matter}/state", new { state = "closed", why = "settled" });
    }

    [Fact]
    public async Task Each_part_in_a_matter_may_what_it_is_for_and_is_told_when_more_is_needed()
    {
        using var vera = await product.SignInAsync("vera");
        using var nils = await product.SignInAsync("nils");
        var matter = await OpenAsync(vera);
        await LetInAsync(vera, matter, "nils", "reader");
        var refused = await nils.Post(
            $"matters/{matter}/orders",
            new { name = "Mine", definition = Everything("pier") }
        );
        (refused.Status, refused.Problem).ShouldBe((HttpStatusCode.Forbidden, "not-allowed"));
        refused.Body.ToString().ShouldContain("In this matter you are a reader; this takes a reviewer.");
        await LetInAsync(vera, matter, "nils", "reviewer");
        var order = (
            await nils.PostOk($"matters/{matter}/orders", new { name = "Mine", definition = Everything("pier") })
        )
            .GetProperty("orders")[0]
            .GetProperty("id")
            .GetInt64();
        var fingerprint = (await nils.PostOk($"matters/{matter}/orders/{order}/consequences", Everything("pier")))
            .GetProperty("fingerprint")
            .GetString();
        (
            await nils.Post(
                $"matters/{matter}/orders/{order}/activation",
                new { fingerprint, why = "mine" },
                await RevisionAsync(nils, matter, order)
            )
        )
            .Body.ToString()
            .ShouldContain("you are a reviewer; this takes a lead");
        (
            await nils.Post(
                $"matters/{matter}/members",
                new
                {
                    personId = (long?)1,
                    groupId = (long?)null,
                    part = "lead",
                }
            )
        ).Problem.ShouldBe("not-allowed");
        (
            await vera.Post(
                $"matters/{matter}/members",
                new
                {
                    personId = (long?)null,
                    groupId = (long?)null,
                    part = "lead",
                }
            )
        ).Problem.ShouldBe("member-missing");
        (
            await vera.Post(
                $"matters/{matter}/members",
                new
                {
                    personId = (long?)987_654,
                    groupId = (long?)null,
                    part = "lead",
                }
            )
        ).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_legal_lead_joins_a_matter_of_others_with_a_reason_that_its_members_read()
    {
        using var vera = await product.SignInAsync("vera");
        using var nils = await product.SignInAsync("nils");
        var matter = await OpenAsync(nils, "Opened by Nils");
        (await vera.Get($"matters/{matter}")).Status.ShouldBe(HttpStatusCode.NotFound);
        var other = (await vera.GetOk("matters/others")).EnumerateArray().Single();
        // That it exists and whom to ask, and nothing of what it is about.
        other.ToString().ShouldNotContain("Opened by Nils");
        (other.GetProperty("number").GetString(), other.GetProperty("leads")[0].GetString()).ShouldBe(
            (await NumberAsync(nils, matter), "nils")
        );
        (await vera.Post($"matters/{matter}/joining", new { why = " " })).Problem.ShouldBe("why-missing");
        (await vera.PostOk($"matters/{matter}/joining", new { why = "Nils is on leave." }))
            .GetProperty("part")
            .GetString()
            .ShouldBe("lead");
        (await nils.GetOk($"matters/{matter}/history"))
            .EnumerateArray()
            .Single(e => e.GetProperty("verb").GetString() == "joined")
            .GetProperty("reason")
            .GetString()
            .ShouldBe("Nils is on leave.");
        (await nils.Get("matters/others")).Status.ShouldBe(HttpStatusCode.Forbidden);
        (await nils.Post($"matters/{matter + 1}/joining", new { why = "x" })).Status.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task A_matter_of_a_unit_reaches_nothing_outside_it()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = (
            await vera.PostOk(
                "matters",
                new
                {
                    name = "Northern only",
                    description = "",
                    kind = "investigation",
                    unitId = product.Units["Northern"],
                }
            )
        ).GetProperty("id").GetInt64();
        object Of(params long[] places) =>
            new
            {
                containers = places,
                custodians = Array.Empty<long>(),
                query = (string?)null,
                from = (string?)null,
                to = (string?)null,
            };
        (
            await vera.Post($"matters/{matter}/orders", new { name = "Wide", definition = Of(containers["Island"]) })
        ).Status.ShouldBe(HttpStatusCode.NotFound);
        (await vera.GetOk($"matters/{matter}/custodians/offers?words=Anna"))[0]
            .GetProperty("places")
            .EnumerateArray()
            .Select(p => p.GetProperty("name").GetString())
            .ShouldBe(["Northern"]);
        var order = await InForceAsync(vera, matter, "All of it", Of());
        (await HeldAsync(vera, matter, order)).ShouldBe(["notes.md"]);
        product.Write("Island/pier later.md", "2026-06-02", "pier");
        product.Write("Northern/pier later.md", "2026-06-02", "pier");
        await product.ScanAsync();
        (await HeldAsync(vera, matter, order)).ShouldBe(["notes.md", "pier later.md"]);
    }

    [Fact]
    public async Task A_custodian_goes_only_while_no_order_and_no_notice_speaks_of_them()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = await OpenAsync(vera);
        var anna = await CustodianAsync(vera, matter, "Anna");
        var person = (await vera.GetOk($"matters/{matter}"))
            .GetProperty("custodians")[0]
            .GetProperty("personId")
            .GetInt64();
        (
            await vera.Post(
                $"matters/{matter}/custodians",
                new
                {
                    personId = person,
                    containers = Array.Empty<long>(),
                    authored = true,
                }
            )
        ).Problem.ShouldBe("custodian-known");
        var definition = new
        {
            containers = Array.Empty<long>(),
            custodians = new[] { anna },
            query = (string?)null,
            from = (string?)null,
            to = (string?)null,
        };
        var order = (await vera.PostOk($"matters/{matter}/orders", new { name = "Anna's", definition }))
            .GetProperty("orders")[0]
            .GetProperty("id")
            .GetInt64();
        var refused = await vera.Delete($"matters/{matter}/custodians/{anna}");
        (
            refused.Problem,
            refused.Body.ToString().Contains("Order 1 names Anna Brand", StringComparison.Ordinal)
        ).ShouldBe(("custodian-in-use", true));
        (
            await vera.Delete($"matters/{matter}/orders/{order}/draft", await RevisionAsync(vera, matter, order))
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await vera.Delete($"matters/{matter}/custodians/{anna}")).Status.ShouldBe(HttpStatusCode.OK);
        (await vera.GetOk($"matters/{matter}")).GetProperty("custodians").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task What_somebody_else_changed_meanwhile_is_not_written_over()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = await OpenAsync(vera);
        var seen = (await vera.GetOk($"matters/{matter}")).GetProperty("revision").GetInt64();
        object Change(string name, int delay = 30) =>
            new
            {
                name,
                description = "",
                kind = "litigation",
                delayDays = delay,
                controlPrefix = "TF",
                bundleDays = 90,
            };
        (await vera.Put($"matters/{matter}", Change("First"), seen)).Status.ShouldBe(HttpStatusCode.OK);
        (await vera.Put($"matters/{matter}", Change("Second"), seen)).Status.ShouldBe(
            HttpStatusCode.PreconditionFailed
        );
        (await vera.Put($"matters/{matter}", Change("Third", delay: -1), seen + 1)).Problem.ShouldBe(
            "days-out-of-range"
        );
        (await vera.Put($"matters/{matter}", Change(" "), seen + 1)).Problem.ShouldBe("name-missing");
        (await vera.GetOk($"matters/{matter}")).GetProperty("name").GetString().ShouldBe("First");
    }

    internal static object Everything(string? query) =>
        new
        {
            containers = Array.Empty<long>(),
            custodians = Array.Empty<long>(),
            query,
            from = (string?)null,
            to = (string?)null,
        };

    private Task<long> OpenAsync(Api who, string name = "Collision with pier 4") => product.OpenMatterAsync(who, name);

    private static async Task<string> NumberAsync(Api who, long matter) =>
        (await who.GetOk($"matters/{matter}")).GetProperty("number").GetString()!;

    internal static async Task LetInAsync(Api who, long matter, string name, string part)
    {
        var candidate = (await who.GetOk($"matters/{matter}/candidates"))
            .EnumerateArray()
            .Single(c => c.GetProperty("name").GetString() == name);
        await who.PostOk(
            $"matters/{matter}/members",
            new
            {
                personId = candidate.GetProperty("personId"),
                groupId = candidate.GetProperty("groupId"),
                part,
            }
        );
    }

    internal static async Task<long> CustodianAsync(Api who, long matter, string words)
    {
        var offer = (await who.GetOk($"matters/{matter}/custodians/offers?words={words}"))[0];
        var after = await who.PostOk(
            $"matters/{matter}/custodians",
            new
            {
                personId = offer.GetProperty("personId").GetInt64(),
                containers = offer
                    .GetProperty("places")
                    .EnumerateArray()
                    .Where(p => p.GetProperty("sure").GetBoolean())
                    .Select(p => p.GetProperty("id").GetInt64()),
                authored = true,
            }
        );
        return after.GetProperty("custodians")[0].GetProperty("id").GetInt64();
    }

    internal static async Task<long> RevisionAsync(Api who, long matter, long order) =>
        (await OrderAsync(who, matter, order)).GetProperty("revision").GetInt64();

    private static async Task<JsonElement> OrderAsync(Api who, long matter, long order) =>
        (await who.GetOk($"matters/{matter}"))
            .GetProperty("orders")
            .EnumerateArray()
            .Single(o => o.GetProperty("id").GetInt64() == order);

    private static async Task SaveDraftAsync(Api who, long matter, long order, string name, object definition) =>
        (
            await who.Put(
                $"matters/{matter}/orders/{order}/draft",
                new { name, definition },
                await RevisionAsync(who, matter, order)
            )
        ).Status.ShouldBe(HttpStatusCode.OK);

    internal static async Task<long> InForceAsync(Api who, long matter, string name, object definition)
    {
        var order = (await who.PostOk($"matters/{matter}/orders", new { name, definition }))
            .GetProperty("orders")
            .EnumerateArray()
            .Last()
            .GetProperty("id")
            .GetInt64();
        var fingerprint = (await who.PostOk($"matters/{matter}/orders/{order}/consequences", definition))
            .GetProperty("fingerprint")
            .GetString();
        var answer = await who.Post(
            $"matters/{matter}/orders/{order}/activation",
            new { fingerprint, why = "test" },
            await RevisionAsync(who, matter, order)
        );
        answer.Status.ShouldBe(HttpStatusCode.OK, answer.Text);
        await who.WaitForJobsAsync();
        return order;
    }

    internal static async Task<List<string>> HeldAsync(Api who, long matter, long order) =>
        [
            .. (await who.GetOk($"matters/{matter}/orders/{order}/items"))
                .GetProperty("items")
                .EnumerateArray()
                .Select(i => i.GetProperty("title").GetString()!)
                .Order(StringComparer.Ordinal),
        ];

    internal static async Task<Answer> AskReleaseAsync(
        Api who,
        long matter,
        long order,
        object? narrowed,
        int days = 30
    )
    {
        var fingerprint = (
            await who.PostOk($"matters/{matter}/orders/{order}/releases/consequences?delay={days}", new { narrowed })
        )
            .GetProperty("fingerprint")
            .GetString();
        return await who.Post(
            $"matters/{matter}/orders/{order}/releases",
            new
            {
                narrowed,
                why = "no longer needed",
                delayDays = days,
                fingerprint,
            },
            await RevisionAsync(who, matter, order)
        );
    }

    internal static async Task AgreeAsync(Api who, long matter, long order, object? narrowed)
    {
        var release = (await who.GetOk($"matters/{matter}"))
            .GetProperty("releases")
            .EnumerateArray()
            .Single(r => r.GetProperty("state").GetString() == "waiting")
            .GetProperty("id")
            .GetInt64();
        var fingerprint = (
            await who.PostOk($"matters/{matter}/orders/{order}/releases/consequences?delay=30", new { narrowed })
        )
            .GetProperty("fingerprint")
            .GetString();
        (
            await who.Post(
                $"matters/{matter}/releases/{release}/decision",
                new
                {
                    agree = true,
                    why = "agreed",
                    fingerprint,
                }
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
    }

    private static (int Code, string Output) Outside(string program, string[] arguments, string folder)
    {
        using var process = Process.Start(
            new ProcessStartInfo(program, arguments) { WorkingDirectory = folder, RedirectStandardOutput = true }
        )!;
        var output = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        return (process.ExitCode, output);
    }
}

using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace WideKeel.Server.Tests.Matters;

/// <summary>The protection of an order in force shrinks by a release only, and what is held stays known where it lay.</summary>
public sealed class ProtectionTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Dictionary<string, long> containers = [];
    private Api vera = null!;
    private Api nils = null!;
    private long matter;
    private long order;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/pier.md", "2015-03-01", "contact with the pier");
        containers = await product.ScanAsync();
        vera = await product.SignInAsync("vera");
        nils = await product.SignInAsync("nils");
        matter = await product.OpenMatterAsync(vera);
        await MatterTests.LetInAsync(vera, matter, "nils", "lead");
        order = await MatterTests.InForceAsync(vera, matter, "Words", Words("pier or dolphin"));
    }

    public ValueTask DisposeAsync()
    {
        vera.Dispose();
        nils.Dispose();
        return product.DisposeAsync();
    }

    private static object Words(string query, string? from = null) =>
        new
        {
            containers = Array.Empty<long>(),
            custodians = Array.Empty<long>(),
            query,
            from,
            to = (string?)null,
        };

    private async Task<JsonElement> OrderAsync() => (await vera.GetOk($"matters/{matter}")).GetProperty("orders")[0];

    private async Task<Answer> PutInForceAsync(object definition)
    {
        (
            await vera.Put(
                $"matters/{matter}/orders/{order}/draft",
                new { name = "Words", definition },
                (await OrderAsync()).GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        var shown = await vera.PostOk($"matters/{matter}/orders/{order}/consequences", definition);
        return await vera.Post(
            $"matters/{matter}/orders/{order}/activation",
            new { fingerprint = shown.GetProperty("fingerprint").GetString(), why = "test" },
            (await OrderAsync()).GetProperty("revision").GetInt64()
        );
    }

    private async Task<string?> FingerprintAsync(object narrowed) =>
        (await vera.PostOk($"matters/{matter}/orders/{order}/releases/consequences?delay=30", new { narrowed }))
            .GetProperty("fingerprint")
            .GetString();

    private async Task<Answer> AskAsync(object narrowed) =>
        await vera.Post(
            $"matters/{matter}/orders/{order}/releases",
            new
            {
                narrowed,
                why = "no longer needed",
                delayDays = 30,
                fingerprint = await FingerprintAsync(narrowed),
            },
            (await OrderAsync()).GetProperty("revision").GetInt64()
        );

    /// <summary>Narrowed with the second person's agreement. Returns the release.</summary>
    private async Task<long> NarrowAsync(object narrowed)
    {
        (await AskAsync(narrowed)).Status.ShouldBe(HttpStatusCode.OK);
        var release = (await vera.GetOk($"matters/{matter}"))
            .GetProperty("releases")
            .EnumerateArray()
            .Single(r => r.GetProperty("state").GetString() == "waiting")
            .GetProperty("id")
            .GetInt64();
        (
            await nils.Post(
                $"matters/{matter}/releases/{release}/decision",
                new
                {
                    agree = true,
                    why = "agreed",
                    fingerprint = await FingerprintAsync(narrowed),
                }
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await vera.WaitForJobsAsync();
        return release;
    }

    private Task<Answer> UndoAsync(long release) =>
        vera.Post($"matters/{matter}/releases/{release}/undoing", new { why = "a mistake" });

    private async Task<Answer> DelayAsync(int days)
    {
        var view = await vera.GetOk($"matters/{matter}");
        return await vera.Put(
            $"matters/{matter}",
            new
            {
                name = "Collision",
                description = "",
                kind = "litigation",
                delayDays = days,
                controlPrefix = view.GetProperty("controlPrefix").GetString(),
                bundleDays = view.GetProperty("bundleDays").GetInt32(),
            },
            view.GetProperty("revision").GetInt64()
        );
    }

    [Fact]
    public async Task A_word_is_not_taken_out_by_one_person_although_nothing_matches_it_today() =>
        (await PutInForceAsync(Words("pier"))).Problem.ShouldBe("order-narrower");

    [Fact]
    public async Task A_later_first_day_is_not_set_by_one_person() =>
        (await PutInForceAsync(Words("pier or dolphin", "2015-01-01"))).Problem.ShouldBe("order-narrower");

    [Fact]
    public async Task A_wider_definition_is_put_in_force_by_one_person() =>
        (await PutInForceAsync(Words("pier or dolphin or fog"))).Status.ShouldBe(HttpStatusCode.OK);

    [Fact]
    public async Task The_same_definition_is_put_in_force_again_by_one_person() =>
        (await PutInForceAsync(Words("dolphin or pier"))).Status.ShouldBe(HttpStatusCode.OK);

    [Fact]
    public async Task A_word_that_nothing_matches_leaves_by_a_release() =>
        (await AskAsync(Words("pier"))).Status.ShouldBe(HttpStatusCode.OK);

    [Fact]
    public async Task What_is_no_narrower_is_no_release() =>
        (await AskAsync(Words("pier or dolphin or fog"))).Problem.ShouldBe("nothing-leaves");

    [Fact]
    public async Task A_narrowing_is_undone_by_one_person() =>
        (await UndoAsync(await NarrowAsync(Words("pier")))).Status.ShouldBe(HttpStatusCode.OK);

    [Fact]
    public async Task A_narrowing_is_not_undone_after_the_order_was_widened_otherwise()
    {
        var release = await NarrowAsync(Words("pier"));
        (await PutInForceAsync(Words("pier or fog"))).Status.ShouldBe(HttpStatusCode.OK);
        (await UndoAsync(release)).Problem.ShouldBe("widened-since");
    }

    [Fact]
    public async Task The_delay_is_not_shortened_while_an_order_is_in_force() =>
        (await DelayAsync(0)).Problem.ShouldBe("delay-shortened");

    [Fact]
    public async Task The_delay_is_lengthened_at_any_time() =>
        (await DelayAsync(60)).Status.ShouldBe(HttpStatusCode.OK);

    [Fact]
    public async Task A_held_file_that_is_deleted_stays_known_at_its_place_although_its_content_appears_elsewhere()
    {
        File.Move(Path.Combine(product.Share, "Fleet/pier.md"), Path.Combine(product.Share, "Fleet/copy.md"));
        await product.ScanAsync();
        (await PathsAsync()).ShouldBe(["Fleet/copy.md", "Fleet/pier.md"], ignoreOrder: true);
    }

    [Fact]
    public async Task What_appears_elsewhere_is_held_too()
    {
        File.Move(Path.Combine(product.Share, "Fleet/pier.md"), Path.Combine(product.Share, "Fleet/copy.md"));
        await product.ScanAsync();
        (await vera.GetOk("items?state=held")).GetProperty("total").GetInt64().ShouldBe(2);
    }

    [Fact]
    public async Task A_file_that_nothing_holds_is_still_taken_for_moved()
    {
        product.Write("Fleet/fog.md", "2015-03-01", "fog");
        await product.ScanAsync();
        File.Move(Path.Combine(product.Share, "Fleet/fog.md"), Path.Combine(product.Share, "Fleet/mist.md"));
        await product.ScanAsync();
        (await PathsAsync()).ShouldBe(["Fleet/mist.md", "Fleet/pier.md"], ignoreOrder: true);
    }

    /// <summary>A held file of the staff's own unit that is then deleted on the share. Returns its id.</summary>
    private async Task<long> DeletedWhileHeldAsync()
    {
        var file = product.Write("Island/memo.md", "2015-03-01", "of the pier");
        await product.ScanAsync();
        var item = (await vera.GetOk("items?cql=title=memo")).GetProperty("items")[0].GetProperty("id").GetInt64();
        File.Delete(file);
        await product.ScanAsync();
        return item;
    }

    [Fact]
    public async Task What_staff_deleted_while_it_was_held_is_not_found_by_them_any_more()
    {
        await DeletedWhileHeldAsync();
        using var pia = await product.SignInAsync("pia");
        (await pia.GetOk("items?cql=pier")).GetProperty("total").GetInt64().ShouldBe(0);
    }

    [Fact]
    public async Task Its_page_is_not_shown_to_them_any_more()
    {
        var item = await DeletedWhileHeldAsync();
        using var pia = await product.SignInAsync("pia");
        (await pia.Get($"items/{item}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Legal_finds_it_as_before()
    {
        var item = await DeletedWhileHeldAsync();
        (await vera.Get($"items/{item}")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Staff_find_what_nobody_deleted()
    {
        product.Write("Island/log.md", "2015-03-01", "of the pier");
        await product.ScanAsync();
        using var pia = await product.SignInAsync("pia");
        (await pia.GetOk("items?cql=pier")).GetProperty("total").GetInt64().ShouldBe(1);
    }

    /// <summary>An order over the places of one custodian, who then loses one of them by a change of one person.</summary>
    private async Task<object> CustodianLosesAPlaceAsync()
    {
        using (var jonas = await product.SignInAsync("jonas"))
        {
            await jonas.PostOk(
                "directory",
                new
                {
                    people = "name,mail,unit,title,manager,leaves\nAnna Brand,anna@tarn.example,Fleet,Master,,\n",
                    groups = "group,member\n",
                }
            );
        }

        product.Write("Island/log.md", "2015-03-01", "fog");
        var places = (await product.ScanAsync()).Values.ToArray();
        var offer = (await vera.GetOk($"matters/{matter}/custodians/offers?words=Anna"))[0];
        var custodian = (
            await vera.PostOk(
                $"matters/{matter}/custodians",
                new
                {
                    personId = offer.GetProperty("personId").GetInt64(),
                    containers = places,
                    authored = false,
                }
            )
        ).GetProperty("custodians")[0];
        var definition = new
        {
            containers = Array.Empty<long>(),
            custodians = new[] { custodian.GetProperty("id").GetInt64() },
            query = "nothing that is there",
            from = (string?)null,
            to = (string?)null,
        };
        order = await MatterTests.InForceAsync(vera, matter, "Anna", definition);
        var changed = await vera.Put(
            $"matters/{matter}/custodians/{custodian.GetProperty("id").GetInt64()}",
            new { containers = places[..1], authored = false },
            (await vera.GetOk($"matters/{matter}")).GetProperty("custodians")[0] is var now
            && now.TryGetProperty("revision", out var revision)
                ? revision.GetInt64()
                : null
        );
        changed.Status.ShouldBe(HttpStatusCode.OK, changed.Text);
        return definition;
    }

    [Fact]
    public async Task A_place_that_a_custodian_lost_does_not_leave_an_order_by_putting_it_in_force_again()
    {
        var definition = await CustodianLosesAPlaceAsync();
        var shown = await vera.PostOk($"matters/{matter}/orders/{order}/consequences", definition);
        var revision = (await vera.GetOk($"matters/{matter}"))
            .GetProperty("orders")
            .EnumerateArray()
            .Single(o => o.GetProperty("id").GetInt64() == order)
            .GetProperty("revision")
            .GetInt64();
        (
            await vera.Post(
                $"matters/{matter}/orders/{order}/activation",
                new { fingerprint = shown.GetProperty("fingerprint").GetString(), why = "test" },
                revision
            )
        ).Problem.ShouldBe("order-narrower");
    }

    /// <summary>As between the moment of putting in force and the job that goes through what exists.</summary>
    private async Task UnapplyAsync()
    {
        await using var db = product.Database();
        await db.HoldItems.ExecuteDeleteAsync(TestContext.Current.CancellationToken);
        await db.HoldOrders.ExecuteUpdateAsync(
            set => set.SetProperty(o => o.AppliedAt, (NodaTime.Instant?)null),
            TestContext.Current.CancellationToken
        );
    }

    [Fact]
    public async Task What_an_item_said_when_its_order_came_in_force_is_held_although_it_was_edited_before_the_job_came()
    {
        await UnapplyAsync();
        product.Write("Fleet/pier.md", "2015-03-01", "nothing of the kind");
        await product.ScanAsync();
        (await MatterTests.HeldAsync(vera, matter, order)).ShouldBe(["pier.md"]);
    }

    [Fact]
    public async Task Another_file_where_a_held_one_was_deleted_is_another_item()
    {
        await ReplaceAsync();
        (await PathsAsync()).Count(p => p == "Fleet/a.md").ShouldBe(2);
    }

    [Fact]
    public async Task Another_file_where_a_held_one_was_deleted_is_not_held()
    {
        await ReplaceAsync();
        (await MatterTests.HeldAsync(vera, matter, order)).ShouldBe(["a.md", "pier.md"]);
    }

    /// <summary>A held file is deleted, and later another one is created at its place.</summary>
    private async Task ReplaceAsync()
    {
        var file = product.Write("Fleet/a.md", "2015-03-01", "the dolphin is bent");
        await product.ScanAsync();
        File.Delete(file);
        await product.ScanAsync();
        product.Write("Fleet/a.md", "2026-05-01", "lunch");
        await product.ScanAsync();
    }

    [Fact]
    public async Task No_facet_counts_for_staff_what_they_deleted_and_an_order_holds()
    {
        var file = product.Write("Island/bent.md", "2015-03-01", "the dolphin is bent");
        await product.ScanAsync();
        File.Delete(file);
        await product.ScanAsync();
        using var pia = await product.SignInAsync("pia");
        (await pia.GetOk("items/facets?cql=dolphin&year=2015"))
            .EnumerateArray()
            .Sum(f => f.GetProperty("values").GetArrayLength())
            .ShouldBe(0);
    }

    [Fact]
    public async Task An_edit_of_what_is_held_does_not_stop_a_wider_definition()
    {
        product.Write("Fleet/a.md", "2015-03-01", "the dolphin is bent");
        await product.ScanAsync();
        product.Write("Fleet/a.md", "2015-03-01", "lunch");
        await product.ScanAsync();
        (await PutInForceAsync(Words("pier or dolphin or fog"))).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task An_order_that_names_a_channel_alone_holds_no_item()
    {
        var events = await MatterTests.InForceAsync(
            vera,
            matter,
            "Events",
            new
            {
                containers = Array.Empty<long>(),
                custodians = Array.Empty<long>(),
                query = (string?)null,
                from = (string?)null,
                to = (string?)null,
                channels = new[] { "mail-server" },
            }
        );
        (await MatterTests.HeldAsync(vera, matter, events)).ShouldBeEmpty();
    }

    [Fact]
    public async Task The_leads_hear_of_every_change_of_what_is_held()
    {
        product.Write("Fleet/pier.md", "2015-03-01", "nothing of the kind");
        await product.ScanAsync();
        await using var db = product.Database();
        (
            await db
                .Messages.Where(m => m.Subject.StartsWith("1 held item changed"))
                .CountAsync(TestContext.Current.CancellationToken)
        ).ShouldBe(2);
    }

    [Fact]
    public async Task A_container_that_is_given_to_another_unit_leaves_no_order_in_force()
    {
        var own = (
            await vera.PostOk(
                "matters",
                new
                {
                    name = "Berth",
                    description = "",
                    kind = "litigation",
                    unitId = product.Units["Fleet"],
                }
            )
        ).GetProperty("id").GetInt64();
        var berths = await MatterTests.InForceAsync(vera, own, "Berths", Words("berth"));
        using var jonas = await product.SignInAsync("jonas");
        var container = (await jonas.GetOk("sources"))
            .EnumerateArray()
            .SelectMany(s => s.GetProperty("containers").EnumerateArray())
            .Single(c => c.GetProperty("id").GetInt64() == containers["Fleet"]);
        (
            await jonas.Put(
                $"containers/{containers["Fleet"]}",
                new { unitId = product.Units["Island"] },
                container.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        product.Write("Fleet/berth.md", "2015-03-01", "the new berth");
        await jonas.PostOk($"sources/{(await jonas.GetOk("sources"))[0].GetProperty("id").GetInt64()}/scans", new { });
        await jonas.WaitForJobsAsync();
        (await MatterTests.HeldAsync(vera, own, berths)).ShouldBe(["berth.md"]);
    }

    [Fact]
    public async Task What_somebody_wrote_is_not_left_out_by_reaching_the_whole_unit_instead()
    {
        await MatterTests.NameAnnaAsync(product);
        var anna = await MatterTests.CustodianAsync(vera, matter, "Anna");
        object Of(long[] custodians) =>
            new
            {
                containers = Array.Empty<long>(),
                custodians,
                query = (string?)null,
                from = (string?)null,
                to = (string?)null,
            };
        order = await MatterTests.InForceAsync(vera, matter, "Hers", Of([anna]));
        var shown = await vera.PostOk($"matters/{matter}/orders/{order}/consequences", Of([]));
        await vera.Put(
            $"matters/{matter}/orders/{order}/draft",
            new { name = "Hers", definition = Of([]) },
            await MatterTests.RevisionAsync(vera, matter, order)
        );
        (
            await vera.Post(
                $"matters/{matter}/orders/{order}/activation",
                new { fingerprint = shown.GetProperty("fingerprint").GetString(), why = "test" },
                await MatterTests.RevisionAsync(vera, matter, order)
            )
        ).Problem.ShouldBe("order-narrower");
    }

    [Fact]
    public async Task What_an_order_holds_that_was_not_applied_yet_is_not_taken_for_moved_either()
    {
        await UnapplyAsync();
        File.Move(Path.Combine(product.Share, "Fleet/pier.md"), Path.Combine(product.Share, "Fleet/copy.md"));
        await product.ScanAsync();
        (await PathsAsync()).ShouldBe(["Fleet/copy.md", "Fleet/pier.md"], ignoreOrder: true);
    }

    private async Task<IEnumerable<string?>> PathsAsync() =>
        (await vera.GetOk("items"))
            .GetProperty("items")
            .EnumerateArray()
            .Select(i => i.GetProperty("path").GetString());
}

using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Matters;

/// <summary>A mailbox or folder that appears after its owner became a custodian.</summary>
public sealed class FoundPlaceTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api vera = null!;
    private long matter;
    private long custodian;
    private long order;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/report.md", "2020-01-01", "nothing of the kind");
        await product.ScanAsync();
        await MatterTests.NameAnnaAsync(product);
        vera = await product.SignInAsync("vera");
        matter = await product.OpenMatterAsync(vera);
        custodian = await MatterTests.CustodianAsync(vera, matter, "Anna");
        order = await MatterTests.InForceAsync(vera, matter, "Anna", OfCustodian());
        product.Write("Anna Brand - archive/letter.md", "2020-01-01", "a letter");
        product.Write("Annabel/other.md", "2020-01-01", "of somebody else");
        await product.ScanAsync();
    }

    public ValueTask DisposeAsync()
    {
        vera.Dispose();
        return product.DisposeAsync();
    }

    private object OfCustodian() =>
        new
        {
            containers = Array.Empty<long>(),
            custodians = new[] { custodian },
            query = (string?)null,
            from = (string?)null,
            to = (string?)null,
        };

    private async Task<JsonElement> CustodianAsync() =>
        (await vera.GetOk($"matters/{matter}")).GetProperty("custodians")[0];

    private static List<string> Names(JsonElement places) =>
        [.. places.EnumerateArray().Select(p => p.GetProperty("name").GetString()!)];

    private async Task<long> PlaceAsync() =>
        (await CustodianAsync()).GetProperty("foundPlaces")[0].GetProperty("id").GetInt64();

    private async Task<Answer> DecideAsync(bool theirs, Api? who = null, long? place = null) =>
        await (who ?? vera).Put(
            $"matters/{matter}/custodians/{custodian}/found/{place ?? await PlaceAsync()}",
            new { theirs }
        );

    [Fact]
    public async Task It_is_offered_to_the_matter_and_no_other_place_is() =>
        Names((await CustodianAsync()).GetProperty("foundPlaces")).ShouldBe(["Anna Brand - archive"]);

    [Fact]
    public async Task What_is_in_it_is_held_before_anybody_has_decided() =>
        (await MatterTests.HeldAsync(vera, matter, order)).ShouldBe(["letter.md"]);

    [Fact]
    public async Task A_sweep_of_the_custodian_finds_what_is_in_it() =>
        (await vera.PostOk($"matters/{matter}/count", OfCustodian()))
            .GetProperty("found")
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(1);

    [Fact]
    public async Task Whoever_leads_the_matter_is_asked_by_message()
    {
        await using var db = product.Database();
        db.Messages.Where(m => m.MatterId == matter)
            .Select(m => m.Subject)
            .ShouldContain(s => s.StartsWith("A new place of Anna Brand"));
    }

    [Fact]
    public async Task The_decision_waits_on_the_members_page_of_the_day() =>
        (await vera.GetOk("today")).GetRawText().ShouldContain("A new place of Anna Brand: Anna Brand - archive");

    [Fact]
    public async Task Theirs_makes_it_a_place_of_the_custodian()
    {
        (await DecideAsync(theirs: true)).Status.ShouldBe(HttpStatusCode.OK);
        var now = await CustodianAsync();
        (
            Names(now.GetProperty("containers")).Contains("Anna Brand - archive"),
            now.GetProperty("foundPlaces").GetArrayLength()
        ).ShouldBe((true, 0));
    }

    [Fact]
    public async Task Not_theirs_lets_nothing_go()
    {
        (await DecideAsync(theirs: false)).Status.ShouldBe(HttpStatusCode.OK);
        product.Write("Anna Brand - archive/second.md", "2020-01-01", "another");
        await product.ScanAsync();
        (await MatterTests.HeldAsync(vera, matter, order)).ShouldBe(["letter.md", "second.md"]);
    }

    [Fact]
    public async Task After_a_no_the_order_without_the_place_is_put_in_force_by_a_release_only()
    {
        (await DecideAsync(theirs: false)).Status.ShouldBe(HttpStatusCode.OK);
        var known = (await vera.GetOk($"matters/{matter}")).GetProperty("orders")[0];
        (
            await vera.Put(
                $"matters/{matter}/orders/{order}/draft",
                new { name = "Anna", definition = OfCustodian() },
                known.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        var shown = await vera.PostOk($"matters/{matter}/orders/{order}/consequences", OfCustodian());
        (
            await vera.Post(
                $"matters/{matter}/orders/{order}/activation",
                new { fingerprint = shown.GetProperty("fingerprint").GetString(), why = "test" },
                (await vera.GetOk($"matters/{matter}")).GetProperty("orders")[0].GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.Conflict);
    }

    private async Task<List<string>> FoundForAsync(params string[] declined)
    {
        var other = await product.OpenMatterAsync(vera, "Another");
        var offer = (await vera.GetOk($"matters/{other}/custodians/offers?words=Anna"))[0];
        var after = await vera.PostOk(
            $"matters/{other}/custodians",
            new
            {
                personId = offer.GetProperty("personId").GetInt64(),
                containers = Array.Empty<long>(),
                authored = false,
                declined = offer
                    .GetProperty("places")
                    .EnumerateArray()
                    .Where(p => declined.Contains(p.GetProperty("name").GetString()))
                    .Select(p => p.GetProperty("id").GetInt64()),
            }
        );
        return Names(after.GetProperty("custodians")[0].GetProperty("foundPlaces"));
    }

    [Fact]
    public async Task One_that_whoever_adds_a_custodian_has_not_seen_counts_as_found() =>
        (await FoundForAsync()).ShouldBe(["Anna Brand - archive"]);

    [Fact]
    public async Task One_that_was_left_out_on_purpose_does_not() =>
        (await FoundForAsync("Anna Brand - archive")).ShouldBeEmpty();

    [Fact]
    public async Task It_is_decided_once()
    {
        var place = await PlaceAsync();
        await DecideAsync(theirs: true);
        (await DecideAsync(theirs: false, place: place)).Problem.ShouldBe("place-decided");
    }

    [Fact]
    public async Task Whoever_is_no_member_does_not_decide()
    {
        using var nils = await product.SignInAsync("nils");
        (await DecideAsync(theirs: true, nils)).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_custodian_of_a_closed_matter_is_offered_nothing_more()
    {
        await using (var db = product.Database())
        {
            (
                await db.FoundPlaces.FindAsync([custodian, await PlaceAsync()], TestContext.Current.CancellationToken)
            ).ShouldNotBeNull();
            db.Matters.Single(m => m.Id == matter).State = WideKeel.Core.Matters.MatterState.Closed;
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        product.Write("Anna Brand/more.md", "2020-01-01", "more");
        await product.ScanAsync();
        await using var after = product.Database();
        after.FoundPlaces.Count().ShouldBe(1);
    }
}

using CsCheck;
using NodaTime;
using Shouldly;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;

namespace WideKeel.Core.Tests.Matters;

public class StandingOrdersTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);
    private static readonly string[] Vocabulary =
    [
        "pier",
        "dolphin",
        "merrow",
        "thruster",
        "bow",
        "plate",
        "fog",
        "berth",
        "claim",
        "relay",
    ];

    private static readonly Gen<string> Term = Gen.OneOf(
        Gen.OneOf(Vocabulary),
        Gen.Select(Gen.OneOf(Vocabulary), Gen.OneOf(Vocabulary)).Select((a, b) => $"\"{a} {b}\""),
        Gen.OneOf(Vocabulary).Select(w => $"{w[..2]}*"),
        Gen.OneOf(Vocabulary).Select(w => $"text =/stem {w}"),
        Gen.Select(Gen.OneOf(Vocabulary), Gen.OneOf(Vocabulary)).Select((a, b) => $"text any \"{a} {b}\""),
        Gen.Select(Gen.OneOf(Vocabulary), Gen.OneOf(Vocabulary)).Select((a, b) => $"title all \"{a} {b}\""),
        Gen.Select(Gen.OneOf(Vocabulary), Gen.OneOf(Vocabulary)).Select((a, b) => $"({a} prox/distance<=3 {b})"),
        Gen.OneOf(
            Gen.Const("size > 100"),
            Gen.Const("type = eml"),
            Gen.Const("author = anna"),
            Gen.Const("field.code = 7")
        )
    );

    private static readonly Gen<string?> Query = Gen.OneOf(
        Gen.Const((string?)null),
        Term.Select(t => (string?)t),
        Gen.Select(Term, Gen.OneOf("and", "or", "not"), Term).Select((a, o, b) => (string?)$"{a} {o} {b}"),
        Gen.Select(Term, Term, Term).Select((a, b, c) => (string?)$"({a} or {b}) and {c}")
    );

    private static readonly Gen<Arrival> Item = Gen.Select(
            Gen.OneOf(Vocabulary).Array[0, 4],
            Gen.OneOf(Vocabulary).Array[0, 9],
            Gen.OneOf<string?>("Anna Brand", "bo@tarn.example", null),
            Gen.Int[1, 4],
            Gen.Int[0, 900],
            Gen.Int[0, 300]
        )
        .Select(
            (title, body, author, container, age, worked) =>
                new Arrival(
                    container,
                    Today.PlusDays(-age),
                    Today.PlusDays(-age + worked),
                    new QueryItem
                    {
                        Title = string.Join(' ', title),
                        Body = string.Join(' ', body),
                        Author = author,
                        Type = age % 2 == 0 ? "eml" : "md",
                        Size = age,
                        Fields = new Dictionary<string, string>
                        {
                            ["code"] = (age % 9).ToString(System.Globalization.CultureInfo.InvariantCulture),
                        },
                    }
                )
        );

    private static readonly Gen<(string? Query, int[] Containers, bool Names, int From, int To)> Order = Gen.Select(
        Query,
        Gen.Int[1, 4].Array[0, 3],
        Gen.Bool,
        Gen.Int[0, 900],
        Gen.Int[0, 900]
    );

    [Fact]
    public void The_index_finds_for_every_item_exactly_the_orders_that_are_asked_one_by_one()
    {
        Gen.Select(Order.Array[1, 40], Item.Array[1, 12])
            .Sample(
                (orders, items) =>
                {
                    var standing = orders.Select((o, i) => Make(i + 1, o)).ToList();
                    var index = new StandingOrders(standing);
                    foreach (var item in items)
                    {
                        index
                            .Matching(item)
                            .ShouldBe(standing.Where(o => StandingOrders.Keeps(o, item)).Select(o => o.Id));
                    }
                },
                iter: 400
            );
    }

    [Theory]
    [InlineData("pier", "pier")]
    [InlineData("\"pier 4\" or dolphin", "pier dolphin")]
    [InlineData("pier and thruster", "thruster")]
    [InlineData("text any \"bow plate\"", "bow plate")]
    [InlineData("(pier or dolphin) and merrow", "merrow")]
    [InlineData("pier not merrow", "pier")]
    [InlineData("mer*", null)]
    [InlineData("pier or mer*", null)]
    [InlineData("size > 10", null)]
    public void An_order_is_filed_in_the_index_under_words_without_which_nothing_can_fit(string query, string? words)
    {
        var needed = StandingOrders.NeededWords(QueryCompiler.Compile(query, Today).Value.Condition);
        (needed is null ? null : string.Join(' ', needed)).ShouldBe(words);
    }

    [Fact]
    public void An_order_of_custodians_reaches_what_they_wrote_anywhere_whatever_the_case_of_their_name()
    {
        var order = new StandingOrder(
            1,
            new HashSet<long>(),
            new HashSet<string> { "ANNA BRAND", "ANNA@TARN.EXAMPLE" },
            null,
            HoldDefinition.Everything
        );
        Arrival By(string? author, string? owner = null) =>
            new(9, Today, Today, new QueryItem { Author = author, Owner = owner });
        StandingOrders.Keeps(order, By("Anna Brand")).ShouldBeTrue();
        StandingOrders.Keeps(order, By("anna@tarn.example")).ShouldBeTrue();
        StandingOrders.Keeps(order, By(null, "ANNA BRAND")).ShouldBeTrue();
        StandingOrders.Keeps(order, By("Anna Brandt")).ShouldBeFalse();
        StandingOrders.Keeps(order, By(null)).ShouldBeFalse();
    }

    [Theory]
    [InlineData("2026-01-10", "2026-02-03", true)]
    [InlineData("2026-02-28", "2026-03-20", true)]
    [InlineData("2025-12-01", "2026-06-01", true)]
    [InlineData("2026-01-10", "2026-01-31", false)]
    [InlineData("2026-03-01", "2026-03-02", false)]
    public void An_item_is_dated_by_the_span_from_its_creation_to_its_last_change(
        string created,
        string modified,
        bool touches
    )
    {
        var february = HoldDefinition.Everything with
        {
            From = new LocalDate(2026, 2, 1),
            To = new LocalDate(2026, 2, 28),
        };
        february.Touches(Date(created), Date(modified)).ShouldBe(touches);
    }

    [Fact]
    public void A_definition_that_cannot_be_asked_is_refused_with_its_reason()
    {
        HoldDefinition.Everything.Check(Today).Refused.ShouldBeFalse();
        (HoldDefinition.Everything with { Query = "title = (" }).Check(Today).Refusal!.Field.ShouldBe("query");
        (HoldDefinition.Everything with { Query = "state = due" })
            .Check(Today)
            .Refusal!.Code.ShouldBe("query-circular");
        (HoldDefinition.Everything with { From = Today, To = Today.PlusDays(-1) })
            .Check(Today)
            .Refusal!.Code.ShouldBe("dates-reversed");
        (HoldDefinition.Everything with { Query = "pier dolphin" }).Check(Today).Value!.Condition.ShouldNotBeNull();
    }

    private static StandingOrder Make(long id, (string? Query, int[] Containers, bool Names, int From, int To) o)
    {
        var definition = new HoldDefinition(
            [],
            [],
            o.Query,
            o.From < 300 ? null : Today.PlusDays(-o.From),
            o.To < 300 ? null : Today.PlusDays(-Math.Min(o.From, o.To))
        );
        return new(
            id,
            o.Containers.Length == 0 ? null : o.Containers.Select(c => (long)c).ToHashSet(),
            o.Names ? new HashSet<string> { "ANNA BRAND" } : new HashSet<string>(),
            definition.Check(Today).Value?.Condition,
            definition
        );
    }

    private static LocalDate Date(string iso) => NodaTime.Text.LocalDatePattern.Iso.Parse(iso).Value;
}

using NodaTime;
using WideKeel.Core.Matters;

namespace WideKeel.Core.Tests.Matters;

/// <summary>What a bundle withholds of what was coded.</summary>
public sealed class CodingTests
{
    private static Code Tagged(long item, int document = 0, bool withholds = true, string tag = "Privileged") =>
        new(item, document, tag, withholds, "", "Vera", Instant.MinValue);

    /// <summary>A message with two attachments, and a file with the same content as the first of them.</summary>
    private static readonly CodedDocument[] Documents =
    [
        new("1", 1, 1, "message", [new(2, "plan"), new(3, "photograph")]),
        new("2", 1, 2, "plan", []),
        new("3", 1, 3, "photograph", []),
        new("4", 2, 1, "plan", []),
        new("5", 3, 1, "other", []),
    ];

    private static string[] Withheld(params Code[] codes) => [.. Coding.Withheld(Documents, codes).Keys.Order()];

    [Fact]
    public void A_tag_that_does_not_withhold_keeps_nothing_out() =>
        Withheld(Tagged(1, withholds: false)).ShouldBeEmpty();

    [Fact]
    public void A_tag_on_a_family_withholds_all_of_it() => Withheld(Tagged(3)).ShouldBe(["5"]);

    [Fact]
    public void A_withheld_attachment_takes_its_message_with_it_and_leaves_the_other_attachment() =>
        Withheld(Tagged(1, document: 3)).ShouldBe(["1", "3"]);

    [Fact]
    public void The_same_content_is_withheld_wherever_it_lies() =>
        Withheld(Tagged(1, document: 2)).ShouldBe(["1", "2", "4"]);

    [Fact]
    public void A_withheld_file_withholds_the_message_that_it_is_attached_to() =>
        Withheld(Tagged(2)).ShouldBe(["1", "2", "4"]);

    [Fact]
    public void A_former_content_of_an_item_with_a_withheld_document_is_withheld() =>
        Coding
            .Withheld(
                [new("1", 1, 1, "now", []), new("1.v1", 1, null, "then", []), new("2", 1, 2, "plan", [])],
                [Tagged(1, 2)]
            )
            .Keys.Order()
            .ShouldBe(["1", "1.v1", "2"]);

    /// <summary>Messages alone, their attachments within them.</summary>
    private static readonly CodedDocument[] Whole =
    [
        new("1", 1, 1, "message", [new(2, "plan"), new(3, "letter"), new(null, "photograph")]),
        new("4", 2, 1, "plan", []),
        new("5", 3, 1, "photograph", []),
        new("6", 4, 1, "another message", [new(2, "forwarded"), new(null, "plan")]),
        new("7", 5, 1, "third message", [new(2, "photograph")]),
    ];

    [Fact]
    public void A_copy_of_a_withheld_attachment_is_withheld_where_attachments_are_no_documents() =>
        Coding.Withheld(Whole, [Tagged(1, 2)])["4"].ShouldBe("same content as a document of 1");

    [Fact]
    public void A_message_that_holds_a_withheld_content_is_withheld_however_deep_it_lies() =>
        Coding.Withheld(Whole, [Tagged(2)]).Keys.Order().ShouldBe(["1", "4", "6"]);

    [Fact]
    public void What_lies_deeper_than_a_withheld_document_is_not_withheld_elsewhere() =>
        Coding.Withheld(Whole, [Tagged(1, 3)]).Keys.ShouldBe(["1"]);

    [Fact]
    public void The_reason_names_every_tag_that_withholds() =>
        Coding.Withheld(Documents, [Tagged(3), Tagged(3, tag: "Secret")])["5"].ShouldBe("Privileged; Secret");

    /// <summary>Random families and tags: what is given holds no content that is withheld elsewhere.</summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Nothing_is_given_whose_content_is_withheld(int seed)
    {
        var random = new Random(seed);
        for (var round = 0; round < 300; round++)
        {
            List<CodedDocument> documents = [];
            for (var item = 1; item <= 8; item++)
            {
                var members = 1 + random.Next(4);
                for (var n = 1; n <= members; n++)
                {
                    var hash = n == 1 && members > 1 ? $"m{item}" : $"c{random.Next(6)}";
                    documents.Add(
                        new(
                            $"{item}-{n}",
                            item,
                            random.Next(9) == 0 ? null : n,
                            hash,
                            [
                                .. Enumerable
                                    .Range(0, random.Next(2))
                                    .Select(_ => new HeldContent(null, $"c{random.Next(6)}")),
                            ]
                        )
                    );
                }
            }

            var codes = Enumerable
                .Range(0, random.Next(4))
                .Select(_ => Tagged(1 + random.Next(8), random.Next(4), random.Next(3) > 0))
                .ToList();
            var withheld = Coding.Withheld(documents, codes);
            var given = documents.Where(d => !withheld.ContainsKey(d.Id)).ToList();
            var hidden = documents.Where(d => withheld.ContainsKey(d.Id)).ToList();
            given
                .SelectMany(d => d.Holds.Select(h => h.Hash).Prepend(d.Hash))
                .Intersect(hidden.Select(d => d.Hash))
                .ShouldBeEmpty();
            // A message holds its attachments: it is not given where one of them is not.
            given
                .Where(d => d.Document is null or 1)
                .Select(d => d.ItemId)
                .Intersect(hidden.Select(d => d.ItemId))
                .ShouldBeEmpty();
        }
    }
}

/// <summary>Which places carry somebody's name.</summary>
public sealed class CustodianPlacesTests
{
    [Theory]
    [InlineData("karl.nyman")]
    [InlineData("Karl.Nyman.mbox")]
    [InlineData("#karl.nyman")]
    [InlineData("karl.nyman@tarn.example")]
    [InlineData("Karl Nyman")]
    [InlineData("karl.nyman-archive")]
    [InlineData("Karl Nyman (2026)")]
    [InlineData("k.nyman")]
    [InlineData("nyman.karl")]
    [InlineData("Nyman, Karl")]
    [InlineData("knyman")]
    [InlineData("nymank.mbox")]
    [InlineData("karl_nyman")]
    [InlineData("nyman-k archive")]
    public void A_place_with_the_name_or_address_is_named_after_the_person(string container) =>
        CustodianPlaces.IsNamedAfter(container, "Karl Nyman", "karl.nyman@tarn.example").ShouldBeTrue();

    [Theory]
    [InlineData("karl.nymansson")]
    [InlineData("Fleet")]
    [InlineData("karl")]
    [InlineData("karl.nyman.jensen")]
    [InlineData("nyman")]
    [InlineData("knymansson")]
    [InlineData("old karl.nyman")]
    public void A_place_with_another_name_is_not(string container) =>
        CustodianPlaces.IsNamedAfter(container, "Karl Nyman", "karl.nyman@tarn.example").ShouldBeFalse();

    [Fact]
    public void Nobody_without_a_name_has_a_place() => CustodianPlaces.IsNamedAfter("Fleet", "", "").ShouldBeFalse();
}

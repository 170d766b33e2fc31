using System.Text.Json.Nodes;
using CsCheck;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Ledger;

namespace WideKeel.Core.Tests.Ledger;

public class LedgerEntryTests
{
    private static readonly Gen<JsonNode?> Values = Gen.OneOf<JsonNode?>(
        Gen.String.Where(s => !s.Any(char.IsSurrogate)).Select(s => (JsonNode?)JsonValue.Create(s)),
        Gen.Long.Select(n => (JsonNode?)JsonValue.Create(n)),
        Gen.Int.Select(n => (JsonNode?)JsonValue.Create(n)),
        Gen.Double.Where(double.IsFinite).Select(n => (JsonNode?)JsonValue.Create(n)),
        Gen.Bool.Select(b => (JsonNode?)JsonValue.Create(b)),
        Gen.Const((JsonNode?)null)
    );

    private static readonly Gen<JsonNode?> Objects = Gen.Dictionary(
            Gen.String.Where(s => !s.Any(char.IsSurrogate)),
            Values
        )[0, 8]
        .Select(members => (JsonNode?)new JsonObject(members));

    [Fact]
    public void An_entry_is_written_as_the_object_that_its_parts_make() =>
        Gen.Select(Gen.Long[1, 1L << 52], Gen.String[Gen.Char.AlphaNumeric, 0, 9].Null(), Objects, Objects, Gen.Bool)
            .Sample(
                (sequence, unit, before, after, absent) =>
                {
                    var at = Instant.FromUnixTimeTicks(sequence);
                    var entry = new LedgerEntry(
                        sequence,
                        at,
                        new("job:scan", unit, null, absent ? null : sequence),
                        "found",
                        new("item", "7", unit),
                        absent ? null : before,
                        after,
                        unit
                    );
                    var whole = new JsonObject
                    {
                        ["who"] = "job:scan",
                        ["verb"] = "found",
                        ["subject"] = new JsonObject { ["kind"] = "item", ["id"] = "7" },
                        ["seq"] = sequence,
                        ["at"] = InstantPattern.ExtendedIso.Format(at),
                        ["after"] = after!.DeepClone(),
                    };
                    if (unit is not null)
                    {
                        (whole["subject"]!["unit"], whole["onBehalfOf"], whole["reason"]) = (unit, unit, unit);
                    }

                    if (!absent)
                    {
                        (whole["before"], whole["person"]) = (before!.DeepClone(), sequence);
                    }

                    entry.ToCanonicalText().ShouldBe(CanonicalJson.Text(whole));
                }
            );

    [Fact]
    public void A_value_is_written_alike_whether_the_product_made_it_or_read_it() =>
        Objects.Sample(value =>
            CanonicalJson.Text(value).ShouldBe(CanonicalJson.Text(JsonNode.Parse(value!.ToJsonString())))
        );
}

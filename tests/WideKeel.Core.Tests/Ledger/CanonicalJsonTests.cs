using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using WideKeel.Core.Ledger;

namespace WideKeel.Core.Tests.Ledger;

public class CanonicalJsonTests
{
    [Fact]
    public void The_sample_of_RFC_8785_section_3_2_2_comes_out_as_printed_there()
    {
        // RFC 8785 §3.2.2 (input) and §3.2.3 (output), typed.
        var input = JsonNode.Parse(
            """
            { "numbers": [333333333.33333329, 1E30, 4.50, 2e-3, 0.000000000000000000000000001],
              "string": "\u20ac$\u000F\u000aA'\u0042\u0022\u005c\\\"\/",
              "literals": [null, true, false] }
            """
        );
        CanonicalJson
            .Text(input)
            .ShouldBe(
                """{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27],"string":"€$\u000f\nA'B\"\\\\\"/"}"""
            );
    }

    [Fact]
    public void Names_are_sorted_by_UTF_16_code_units_as_in_RFC_8785_section_3_2_3()
    {
        var input = JsonNode.Parse(
            """
            { "\u20ac": "Euro Sign", "\r": "Carriage Return", "\ufb33": "Hebrew Letter Dalet With Dagesh", "1": "One",
              "\ud83d\ude00": "Emoji: Grinning Face", "\u0080": "Control",
              "\u00f6": "Latin Small Letter O With Diaeresis" }
            """
        );
        using var sorted = JsonDocument.Parse(CanonicalJson.Text(input));
        sorted
            .RootElement.EnumerateObject()
            .Select(p => p.Value.GetString())
            .ShouldBe([
                "Carriage Return",
                "One",
                "Control",
                "Latin Small Letter O With Diaeresis",
                "Euro Sign",
                "Emoji: Grinning Face",
                "Hebrew Letter Dalet With Dagesh",
            ]);
    }

    [Theory]
    // RFC 8785 appendix B, typed: IEEE 754 bits and the text that ECMAScript gives.
    [InlineData(0x0000000000000000, "0")]
    [InlineData(0x8000000000000000, "0")]
    [InlineData(0x0000000000000001, "5e-324")]
    [InlineData(0x8000000000000001, "-5e-324")]
    [InlineData(0x7fefffffffffffff, "1.7976931348623157e+308")]
    [InlineData(0x4340000000000000, "9007199254740992")]
    [InlineData(0x4430000000000000, "295147905179352830000")]
    [InlineData(0x44b52d02c7e14af5, "9.999999999999997e+22")]
    [InlineData(0x44b52d02c7e14af6, "1e+23")]
    [InlineData(0x444b1ae4d6e2ef4e, "999999999999999700000")]
    [InlineData(0x444b1ae4d6e2ef50, "1e+21")]
    [InlineData(0x3eb0c6f7a0b5ed8c, "9.999999999999997e-7")]
    [InlineData(0x3eb0c6f7a0b5ed8d, "0.000001")]
    [InlineData(0x41b3de4355555553, "333333333.3333332")]
    [InlineData(0x41b3de4355555557, "333333333.33333343")]
    [InlineData(0xbecbf647612f3696, "-0.0000033333333333333333")]
    public void Numbers_are_written_as_in_RFC_8785_appendix_B(ulong bits, string text) =>
        CanonicalJson.Number(BitConverter.UInt64BitsToDouble(bits)).ShouldBe(text);

    [Fact]
    public void Random_values_come_out_as_from_a_second_implementation()
    {
        // 400 values by npm json-canonicalize 3.0.1; Fixtures/make-canonical.mjs made them.
        foreach (var line in File.ReadLines(Path.Combine(AppContext.BaseDirectory, "Fixtures", "canonical.jsonl")))
        {
            using var pair = JsonDocument.Parse(line);
            var input = pair.RootElement.GetProperty("input").GetString()!;
            CanonicalJson
                .Text(JsonNode.Parse(input))
                .ShouldBe(pair.RootElement.GetProperty("canonical").GetString(), input);
        }
    }

    [Theory]
    [InlineData(double.NaN)]
    [InlineData(double.PositiveInfinity)]
    public void What_JSON_cannot_carry_is_refused(double value) =>
        Should.Throw<FormatException>(() => CanonicalJson.Number(value));

    [Fact]
    public void A_lone_surrogate_is_refused() =>
        Should.Throw<FormatException>(() => CanonicalJson.Serialize(JsonValue.Create("\ud83d")));

    [Fact]
    public void Nesting_beyond_the_limit_is_refused_and_does_not_overflow_the_stack()
    {
        JsonNode node = new JsonArray();
        for (var i = 0; i < 200; i++)
        {
            node = new JsonArray(node);
        }

        Should.Throw<FormatException>(() => CanonicalJson.Serialize(node));
    }

    [Fact]
    public void The_bytes_are_UTF_8_without_a_mark() =>
        CanonicalJson.Serialize(JsonValue.Create("é")).ShouldBe(Encoding.UTF8.GetBytes("\"é\""));
}

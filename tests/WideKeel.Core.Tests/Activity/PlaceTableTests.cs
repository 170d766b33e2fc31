using CsCheck;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;

namespace WideKeel.Core.Tests.Activity;

public sealed class PlaceTableTests
{
    private static PlaceTable Table(params string[] ranges) =>
        new(ranges.Select(r => (r, new EventPlace("SE", r, null, null))));

    [Theory]
    [InlineData("192.0.2.9", "192.0.2.0/24")]
    [InlineData("192.0.2.130", "192.0.2.128/25")]
    [InlineData("192.0.3.1", "192.0.0.0/16")]
    [InlineData("8.8.8.8", "0.0.0.0/0")]
    [InlineData("2001:db8::1", "2001:db8::/32")]
    public void The_narrowest_range_that_holds_an_address_counts(string address, string range) =>
        Table("0.0.0.0/0", "192.0.0.0/16", "192.0.2.0/24", "192.0.2.128/25", "2001:db8::/32")
            .Of(address)!
            .Name.ShouldBe(range);

    [Theory]
    [InlineData(null)]
    [InlineData("no address")]
    [InlineData("::1")]
    public void What_no_range_holds_has_no_place(string? address) => Table("0.0.0.0/0").Of(address).ShouldBeNull();

    /// <summary>Held against a look at every range.</summary>
    [Fact]
    public void One_look_a_length_finds_what_a_look_at_every_range_finds()
    {
        var address = Gen.Select(Gen.Int[0, 3], Gen.Byte, Gen.Byte, (a, b, c) => $"192.0.{a}.{(b & 0xF0) | (c & 3)}");
        var range = Gen.Select(address, Gen.Int[8, 32], (a, length) => $"{a}/{length}");
        Gen.Select(range.Array[1, 30], address)
            .Sample(
                (ranges, asked) =>
                {
                    var longest = ranges
                        .Where(r => Cidr.Holds(Cidr.Read(r)!.Value, asked))
                        .Select(r => Cidr.Read(r)!.Value.PrefixLength)
                        .DefaultIfEmpty(-1)
                        .Max();
                    var found = Table(ranges).Of(asked);
                    return (found is null ? -1 : Cidr.Read(found.Name!)!.Value.PrefixLength) == longest;
                }
            );
    }
}

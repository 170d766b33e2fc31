using System.Net;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

/// <summary>Against the tables of the IANA special-purpose address registries (RFC 6890, RFC 8190), typed from memory.</summary>
public sealed class PublicAddressTests
{
    [Theory]
    [InlineData("127.0.0.1")]
    [InlineData("127.9.9.9")]
    [InlineData("0.0.0.0")]
    [InlineData("10.1.2.3")]
    [InlineData("100.64.0.1")]
    [InlineData("169.254.169.254")]
    [InlineData("172.16.0.1")]
    [InlineData("172.31.255.255")]
    [InlineData("192.168.1.1")]
    [InlineData("198.18.0.1")]
    [InlineData("224.0.0.1")]
    [InlineData("255.255.255.255")]
    [InlineData("::")]
    [InlineData("::1")]
    [InlineData("::ffff:127.0.0.1")]
    [InlineData("::ffff:10.0.0.1")]
    [InlineData("::7f00:1")]
    [InlineData("64:ff9b::7f00:1")]
    [InlineData("2002:7f00:1::")]
    [InlineData("fc00::1")]
    [InlineData("fd12:3456::1")]
    [InlineData("fe80::1")]
    [InlineData("fec0::1")]
    [InlineData("ff02::1")]
    [InlineData("2001:db8::1")]
    public void What_only_a_machine_or_an_organisation_reaches_is_not_public(string address) =>
        PublicAddress.Is(IPAddress.Parse(address)).ShouldBeFalse();

    [Theory]
    [InlineData("1.1.1.1")]
    [InlineData("172.15.255.255")]
    [InlineData("172.32.0.1")]
    [InlineData("100.128.0.1")]
    [InlineData("192.169.0.1")]
    [InlineData("2606:4700::1111")]
    [InlineData("64:ff9b::101:101")]
    [InlineData("::ffff:1.1.1.1")]
    public void What_the_internet_reaches_is_public(string address) =>
        PublicAddress.Is(IPAddress.Parse(address)).ShouldBeTrue();

    [Theory]
    [InlineData("10.0.0.0/8", "10.9.9.9", true)]
    [InlineData("10.4.7.9", "10.4.7.9", true)]
    [InlineData("10.4.7.9", "10.4.7.8", false)]
    [InlineData("10.4.7.9, fd00::/8", "fd00::5", true)]
    [InlineData("127.0.0.0/8", "::ffff:127.0.0.1", true)]
    public void A_listed_network_holds_its_addresses(string networks, string address, bool holds) =>
        PublicAddress
            .IsIn(IPAddress.Parse(address), PublicAddress.ReadNetworks(networks, "networks").Value)
            .ShouldBe(holds);

    [Theory]
    [InlineData("10.0.0.0/33")]
    [InlineData("localhost")]
    [InlineData("10.0.0.0/8;11.0.0.0/8")]
    public void What_is_no_network_is_named(string text) =>
        PublicAddress.ReadNetworks(text, "networks").Refusal!.Sentence.ShouldContain(text);
}

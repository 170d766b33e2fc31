using NodaTime;
using WideKeel.Core.Readiness;

namespace WideKeel.Core.Tests.Readiness;

public sealed class ConnectionRecordTests
{
    private static string? Refused(string json) => ConnectionRecords.Read(json).Refusal?.Sentence;

    [Theory]
    [InlineData("{}", "records: it is missing: a list of records is expected.")]
    [InlineData("""{ "records": [{}] }""", "records[0].key: it is missing.")]
    [InlineData(
        """{ "records": [{ "key": "a" }, { "key": "a" }] }""",
        "records[1].key: “a” is the key of another record already."
    )]
    [InlineData(
        """{ "records": [{ "key": "a", "due": "soon" }] }""",
        "records[0].due: “soon” is no calendar date such as 2026-03-14."
    )]
    [InlineData(
        """{ "records": [{ "key": "a", "due": "2026-02-30" }] }""",
        "records[0].due: “2026-02-30” is no calendar date such as 2026-03-14."
    )]
    [InlineData("""{ "records": { "key": "a" } }""", "records: a list is expected.")]
    [InlineData("""{ "records": [1] }""", "records[0]: an object is expected.")]
    [InlineData("[", "Line 1: this is no JSON, at byte 2 of the line.")]
    public void The_first_mistake_is_named_with_its_place(string json, string says) => Refused(json).ShouldBe(says);

    [Fact]
    public void A_key_is_not_endless() =>
        Refused($$"""{ "records": [{ "key": "{{new string('x', 201)}}" }] }""")!.ShouldContain("more than 200");

    [Fact]
    public void A_record_without_a_title_is_called_by_its_key() =>
        ConnectionRecords.Read("""{ "records": [{ "key": "a" }] }""").Value[0].Title.ShouldBe("a");

    [Fact]
    public void A_person_s_address_is_kept_in_lower_case() =>
        ConnectionRecords
            .Read("""{ "records": [{ "key": "a", "person": "Ann@X.example" }] }""")
            .Value[0]
            .Person.ShouldBe("ann@x.example");

    [Fact]
    public void What_else_is_sent_is_kept_with_the_record() =>
        ConnectionRecords
            .Read("""{ "records": [{ "key": "a", "encrypted": true }] }""")
            .Value[0]
            .Facts.ShouldBe("""{ "key": "a", "encrypted": true }""");

    private static readonly LocalDate Today = new(2026, 6, 15);

    [Theory]
    [InlineData(null, null, true)]
    [InlineData(0, null, true)]
    [InlineData(-1, null, false)]
    [InlineData(-10, -10, true)]
    [InlineData(-10, -9, false)]
    [InlineData(null, -9, true)]
    public void In_time_is_by_its_day_or_with_time_left(int? due, int? done, bool right) =>
        ConnectionRecords
            .InTime(due is { } a ? Today.PlusDays(a) : null, done is { } b ? Today.PlusDays(b) : null, Today)
            .ShouldBe(right);

    [Fact]
    public void The_same_question_has_the_same_signature() =>
        Signature.OfQuestion("key", "/records", "t", "n").ShouldBe(Signature.OfQuestion("key", "/records", "t", "n"));

    [Theory]
    [InlineData("other", "/records", "t", "n")]
    [InlineData("key", "/other", "t", "n")]
    [InlineData("key", "/records", "u", "n")]
    [InlineData("key", "/records", "t", "m")]
    public void Whatever_differs_gives_another_signature(string key, string path, string time, string nonce) =>
        Signature.OfQuestion(key, path, time, nonce).ShouldNotBe(Signature.OfQuestion("key", "/records", "t", "n"));

    /// <summary>
    /// Computed apart from the product, with the key “Jefe” of RFC 4231, test case 2:
    /// <c>printf 'n\nwhat do ya want for nothing?' | openssl dgst -sha256 -hmac Jefe</c>.
    /// </summary>
    [Fact]
    public void The_signature_is_hmac_sha_256_over_nonce_and_body() =>
        Signature
            .OfAnswer("Jefe", "n", "what do ya want for nothing?")
            .ShouldBe("sha256=d378cbe4678b9e2f27e6204e2bba6e55901a39c3006d2bde3fc93779e6e64e72");

    [Fact]
    public void Nothing_given_is_not_the_same_as_what_is_expected() =>
        Signature.Same(null, Signature.OfAnswer("key", "n", "")).ShouldBeFalse();
}

using System.Text.Json.Nodes;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

/// <summary>Changes by PATCH, among them the examples of RFC 7644, 3.5.2.1 to 3.5.2.3, typed from memory.</summary>
public sealed class ScimPatchTests
{
    private const string Enterprise = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User";

    private static readonly ScimPatch Patch = new([
        "userName",
        "name",
        "displayName",
        "emails",
        "addresses",
        "members",
        "active",
        "title",
        Enterprise,
        $"{Enterprise}:department",
        $"{Enterprise}:manager",
    ]);

    private static JsonObject Object(string json) => (JsonObject)JsonNode.Parse(json)!;

    private static JsonObject Patched(string resource, string operations) =>
        Patch.Apply(Object(resource), Object($$"""{ "Operations": [{{operations}}] }""")).Value;

    private static string Refused(string resource, string operations) =>
        Patch.Apply(Object(resource), Object($$"""{ "Operations": [{{operations}}] }""")).Refusal!.Code;

    private static void ShouldBe(JsonNode? is_, string json) =>
        JsonNode.DeepEquals(is_, JsonNode.Parse(json)).ShouldBeTrue(is_?.ToJsonString());

    [Fact]
    public void A_member_is_added_to_a_group() =>
        ShouldBe(
            Patched(
                """{ "members": [{ "value": "1" }] }""",
                """{ "op": "add", "path": "members", "value": [{ "display": "Babs Jensen", "value": "2819c223" }] }"""
            )["members"],
            """[{ "value": "1" }, { "display": "Babs Jensen", "value": "2819c223" }]"""
        );

    [Fact]
    public void A_member_who_is_there_is_not_added_again() =>
        ShouldBe(
            Patched(
                """{ "members": [{ "value": "1" }] }""",
                """{ "op": "add", "path": "members", "value": [{ "value": "1" }] }"""
            )["members"],
            """[{ "value": "1" }]"""
        );

    [Fact]
    public void Attributes_are_added_without_a_path() =>
        ShouldBe(
            Patched(
                """{ "userName": "b" }""",
                """
                { "op": "add", "value": { "emails": [{ "value": "babs@jensen.org", "type": "home" }], "displayName": "Babs" } }
                """
            ),
            """{ "userName": "b", "emails": [{ "value": "babs@jensen.org", "type": "home" }], "displayName": "Babs" }"""
        );

    [Fact]
    public void A_single_member_is_removed_by_a_filter() =>
        ShouldBe(
            Patched(
                """{ "members": [{ "value": "2819c223" }, { "value": "3" }] }""",
                """{ "op": "remove", "path": "members[value eq \"2819c223\"]" }"""
            )["members"],
            """[{ "value": "3" }]"""
        );

    [Fact]
    public void All_members_are_removed() =>
        Patched("""{ "members": [{ "value": "1" }] }""", """{ "op": "remove", "path": "members" }""")
            .ContainsKey("members")
            .ShouldBeFalse();

    [Fact]
    public void Members_are_removed_by_their_values_as_some_clients_write_it() =>
        ShouldBe(
            Patched(
                """{ "members": [{ "value": "1" }, { "value": "2" }] }""",
                """{ "op": "Remove", "path": "members", "value": [{ "value": "1" }] }"""
            )["members"],
            """[{ "value": "2" }]"""
        );

    [Fact]
    public void An_address_of_a_type_is_removed_by_two_conditions() =>
        ShouldBe(
            Patched(
                """{ "emails": [{ "type": "work", "value": "a@example.com" }, { "type": "work", "value": "a@x.org" }] }""",
                """{ "op": "remove", "path": "emails[type eq \"work\" and value ew \"example.com\"]" }"""
            )["emails"],
            """[{ "type": "work", "value": "a@x.org" }]"""
        );

    [Fact]
    public void All_members_are_replaced_by_one_list() =>
        ShouldBe(
            Patched(
                """{ "members": [{ "value": "1" }] }""",
                """{ "op": "replace", "path": "members", "value": [{ "value": "2" }, { "value": "3" }] }"""
            )["members"],
            """[{ "value": "2" }, { "value": "3" }]"""
        );

    [Fact]
    public void The_work_address_is_changed_in_its_place() =>
        ShouldBe(
            Patched(
                """{ "addresses": [{ "type": "work", "streetAddress": "1 Old Street" }, { "type": "home" }] }""",
                """
                { "op": "replace", "path": "addresses[type eq \"work\"]",
                  "value": { "type": "work", "streetAddress": "911 Universal City Plaza" } }
                """
            )["addresses"],
            """[{ "type": "work", "streetAddress": "911 Universal City Plaza" }, { "type": "home" }]"""
        );

    [Fact]
    public void One_part_of_the_work_address_is_changed() =>
        ShouldBe(
            Patched(
                """{ "addresses": [{ "type": "work", "streetAddress": "1 Old Street" }] }""",
                """
                { "op": "replace", "path": "addresses[type eq \"work\"].streetAddress", "value": "1010 Broadway Ave" }
                """
            )["addresses"],
            """[{ "type": "work", "streetAddress": "1010 Broadway Ave" }]"""
        );

    [Fact]
    public void Parts_of_a_name_are_merged_and_the_others_stay() =>
        ShouldBe(
            Patched(
                """{ "name": { "givenName": "Barbara", "familyName": "Jensen" } }""",
                """{ "op": "replace", "path": "name", "value": { "familyName": "Smith" } }"""
            )["name"],
            """{ "givenName": "Barbara", "familyName": "Smith" }"""
        );

    [Fact]
    public void A_part_of_what_is_not_there_makes_it() =>
        ShouldBe(
            Patched("{}", """{ "op": "add", "path": "name.familyName", "value": "Jensen" }""")["name"],
            """{ "familyName": "Jensen" }"""
        );

    [Fact]
    public void An_address_that_is_not_there_yet_is_made_of_the_filter() =>
        ShouldBe(
            Patched("{}", """{ "op": "add", "path": "emails[type eq \"work\"].value", "value": "a@example.com" }""")[
                "emails"
            ],
            """[{ "type": "work", "value": "a@example.com" }]"""
        );

    [Fact]
    public void An_extension_s_attribute_is_named_after_its_schema() =>
        ShouldBe(
            Patched("{}", $$"""{ "op": "add", "path": "{{Enterprise}}:department", "value": "Tours" }""")[Enterprise],
            """{ "department": "Tours" }"""
        );

    [Fact]
    public void A_manager_who_is_written_as_a_text_is_the_manager_s_value() =>
        ShouldBe(
            Patched(
                $$"""{ "{{Enterprise}}": { "manager": { "value": "1" } } }""",
                $$"""{ "op": "replace", "path": "{{Enterprise}}:manager", "value": "2" }"""
            )[Enterprise],
            """{ "manager": { "value": "2" } }"""
        );

    [Fact]
    public void Of_two_primary_addresses_the_newer_stays_so() =>
        Patched(
            """{ "emails": [{ "value": "a@x.org", "primary": true }] }""",
            """{ "op": "add", "path": "emails", "value": [{ "value": "b@x.org", "primary": true }] }"""
        )["emails"]!
            .AsArray()
            .Count(e => e!["primary"] is not null)
            .ShouldBe(1);

    [Fact]
    public void The_name_of_an_attribute_keeps_its_case() =>
        Patched("""{ "displayName": "a" }""", """{ "op": "replace", "path": "DISPLAYNAME", "value": "b" }""")
            .Select(m => m.Key)
            .ShouldBe(["displayName"]);

    [Theory]
    [InlineData("""{ "op": "replace", "path": "nickName", "value": "B" }""", "invalidPath")]
    [InlineData("""{ "op": "replace", "path": "emails[type", "value": "B" }""", "invalidPath")]
    [InlineData("""{ "op": "replace", "path": "urn:x:department", "value": "B" }""", "invalidPath")]
    [InlineData("""{ "op": "replace", "value": { "nickName": "B" } }""", "invalidPath")]
    [InlineData("""{ "op": "replace", "path": "id", "value": "7" }""", "mutability")]
    [InlineData("""{ "op": "replace", "path": "groups", "value": [] }""", "mutability")]
    [InlineData("""{ "op": "remove" }""", "noTarget")]
    [InlineData("""{ "op": "replace", "path": "emails[type eq \"home\"]", "value": { "value": "x" } }""", "noTarget")]
    [InlineData("""{ "op": "replace", "value": "text" }""", "invalidValue")]
    [InlineData("""{ "op": "delete", "path": "title" }""", "invalidSyntax")]
    [InlineData("""7""", "invalidSyntax")]
    [InlineData("", "invalidSyntax")]
    public void What_cannot_be_done_is_refused_by_the_standard_s_word(string operation, string word) =>
        Refused("""{ "title": "Guide" }""", operation).ShouldBe(word);

    [Fact]
    public void Nothing_is_changed_where_a_later_operation_is_refused()
    {
        var resource = Object("""{ "title": "Guide" }""");
        Patch.Apply(
            resource,
            Object(
                """
                { "Operations": [{ "op": "remove", "path": "title" }, { "op": "add", "path": "nickName", "value": "B" }] }
                """
            )
        );
        ShouldBe(resource, """{ "title": "Guide" }""");
    }
}

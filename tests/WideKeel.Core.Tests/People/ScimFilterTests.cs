using System.Text.Json.Nodes;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

/// <summary>
/// Filters of SCIM. The filters are the examples of RFC 7644, 3.4.2.2; the user is that of RFC 7643, 8.3, shortened; both typed
/// from memory of the documents.
/// </summary>
public sealed class ScimFilterTests
{
    internal const string Barbara = """
        {
          "schemas": ["urn:ietf:params:scim:schemas:core:2.0:User", "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"],
          "id": "2819c223-7f76-453a-919d-413861904646",
          "externalId": "701984",
          "userName": "bjensen@example.com",
          "name": {
            "formatted": "Ms. Barbara J Jensen, III", "familyName": "Jensen", "givenName": "Barbara", "middleName": "Jane"
          },
          "displayName": "Babs Jensen",
          "emails": [
            { "value": "bjensen@example.com", "type": "work", "primary": true },
            { "value": "babs@jensen.org", "type": "home" }
          ],
          "ims": [{ "value": "someaimhandle", "type": "aim" }],
          "userType": "Employee",
          "title": "Tour Guide",
          "active": true,
          "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User": {
            "employeeNumber": "701984", "costCenter": "4130", "department": "Tour Operations",
            "manager": { "value": "26118915-6090-4610-87e4-49d8ca9f808d", "displayName": "John Smith" }
          },
          "meta": { "resourceType": "User", "created": "2010-01-23T04:56:22Z", "lastModified": "2011-05-13T04:42:34Z" }
        }
        """;

    [Theory]
    [InlineData("userName eq \"BJENSEN@example.com\"", true)]
    [InlineData("name.familyName co \"O'Malley\"", false)]
    [InlineData("userName sw \"J\"", false)]
    [InlineData("userName sw \"B\"", true)]
    [InlineData("urn:ietf:params:scim:schemas:core:2.0:User:userName sw \"b\"", true)]
    [InlineData("title pr", true)]
    [InlineData("nickName pr", false)]
    [InlineData("meta.lastModified gt \"2011-05-13T04:42:34Z\"", false)]
    [InlineData("meta.lastModified ge \"2011-05-13T04:42:34Z\"", true)]
    [InlineData("meta.lastModified lt \"2011-05-13T06:42:35+02:00\"", true)]
    [InlineData("meta.lastModified le \"2011-05-13T04:42:33Z\"", false)]
    [InlineData("title pr and userType eq \"Employee\"", true)]
    [InlineData("title pr or userType eq \"Intern\"", true)]
    [InlineData("schemas eq \"urn:ietf:params:scim:schemas:extension:enterprise:2.0:User\"", true)]
    [InlineData("userType eq \"Employee\" and (emails co \"example.com\" or emails.value co \"example.org\")", true)]
    [InlineData(
        "userType ne \"Employee\" and not (emails co \"example.com\" or emails.value co \"example.org\")",
        false
    )]
    [InlineData("userType eq \"Employee\" and (emails.type eq \"work\")", true)]
    [InlineData("userType eq \"Employee\" and emails[type eq \"work\" and value co \"@example.com\"]", true)]
    [InlineData("emails[type eq \"home\" and value co \"@example.com\"]", false)]
    [InlineData(
        "emails[type eq \"work\" and value co \"@example.com\"] or ims[type eq \"xmpp\" and value co \"@foo.com\"]",
        true
    )]
    [InlineData("urn:ietf:params:scim:schemas:extension:enterprise:2.0:User:department eq \"tour operations\"", true)]
    [InlineData("emails[primary eq true].value ew \"example.com\"", true)]
    [InlineData("active eq false", false)]
    [InlineData("title eq null", false)]
    [InlineData("userType EQ \"employee\" AND title PR", true)]
    public void The_standard_s_filters_say_what_it_says(string filter, bool fits) =>
        ScimFilter.Parse(filter).Value.Fits((JsonObject)JsonNode.Parse(Barbara)!).ShouldBe(fits);

    [Fact]
    public void And_binds_closer_than_or() =>
        ScimFilter
            .Parse("title pr or title pr and userType eq \"Nobody\"")
            .Value.Fits((JsonObject)JsonNode.Parse(Barbara)!)
            .ShouldBeTrue();

    [Fact]
    public void The_case_of_an_id_matters() =>
        ScimFilter.Parse("externalId eq \"ABC\"").Value.Fits(new JsonObject { ["externalId"] = "abc" }).ShouldBeFalse();

    [Theory]
    [InlineData("", 1)]
    [InlineData("userName", 9)]
    [InlineData("userName eq", 12)]
    [InlineData("userName eq bjensen", 13)]
    [InlineData("userName xx \"b\"", 10)]
    [InlineData("(userName pr", 13)]
    [InlineData("userName pr)", 12)]
    [InlineData("userName pr userName pr", 13)]
    [InlineData("not userName pr", 5)]
    [InlineData("emails[type eq \"work\"", 22)]
    [InlineData("userName eq \"b", 13)]
    [InlineData("userName eq {}", 13)]
    public void A_filter_that_is_wrong_is_refused_at_its_place(string filter, int at)
    {
        var refusal = ScimFilter.Parse(filter).Refusal!;
        refusal.Code.ShouldBe("invalidFilter");
        refusal.Sentence.ShouldContain($"character {at}:");
    }

    [Theory]
    [InlineData('(', ')')]
    [InlineData('[', ']')]
    public void Two_hundred_parentheses_are_refused_and_not_followed(char open, char close)
    {
        var name = open == '[' ? "a[" : "(";
        var filter = string.Concat(Enumerable.Repeat(name, 200)) + "title pr" + new string(close, 200);
        ScimFilter.Parse(filter).Refusal!.Sentence.ShouldContain("parentheses within each other");
    }

    [Fact]
    public void A_filter_without_end_is_refused() =>
        ScimFilter
            .Parse(string.Join(" or ", Enumerable.Repeat("title pr", 1_000)))
            .Refusal!.Sentence.ShouldContain("4,000 characters");

    [Fact]
    public void What_most_clients_ask_by_is_known_as_an_equation() =>
        ScimFilter.Parse("userName eq \"b\"").Value.AsEquation()!.Value.Text.ShouldBe("b");

    [Fact]
    public void A_filter_of_two_parts_is_no_equation() =>
        ScimFilter.Parse("userName eq \"b\" and title pr").Value.AsEquation().ShouldBeNull();
}

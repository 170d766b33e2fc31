using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Tests.People;

/// <summary>
/// The walk of a directory's program through SCIM 2.0, along the requests of RFC 7644, 3 and the resources of RFC 7643, 8.
/// </summary>
public sealed class ScimTests(Product product) : IClassFixture<Product>
{
    private const string Enterprise = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User";

    [Fact]
    public async Task A_user_is_created_with_its_place_and_version()
    {
        using var client = await ConnectedAsync("creates");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "created.example"));
        (made.Status, made.Response.Content.Headers.ContentType!.MediaType).ShouldBe(
            (HttpStatusCode.Created, "application/scim+json")
        );
        made.Response.Headers.Location!.ToString().ShouldEndWith($"/scim/v2/Users/{made.Id}");
        made.Response.Headers.ETag!.ToString().ShouldBe((string)made.Body["meta"]!["version"]!);
    }

    [Fact]
    public async Task A_user_reads_as_it_was_sent()
    {
        using var client = await ConnectedAsync("reads");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "read.example"));
        var read = await client.SendAsync("GET", $"Users/{made.Id}");
        (
            (string)read.Body["userName"]!,
            (string)read.Body["name"]!["familyName"]!,
            (string)read.Body["emails"]![0]!["value"]!,
            (string)read.Body["title"]!,
            (string)read.Body[Enterprise]!["department"]!,
            (bool)read.Body["active"]!,
            (string)read.Body["externalId"]!
        ).ShouldBe(("bjensen", "Jensen", "bjensen@read.example", "Tour Guide", "Tour Operations", true, "ext-bjensen"));
    }

    [Fact]
    public async Task A_user_who_was_sent_stands_in_the_directory()
    {
        using var client = await ConnectedAsync("stands");
        await client.SendAsync("POST", "Users", User("bjensen", "stands.example"));
        using var jonas = await product.SignInAsync("jonas");
        var person = (await jonas.GetOk("directory/people?words=stands.example")).EnumerateArray().Single();
        (
            person.GetProperty("name").GetString(),
            person.GetProperty("unit").GetString(),
            person.GetProperty("source").GetString()
        ).ShouldBe(("Babs Jensen", "Tour Operations", "stands"));
    }

    [Fact]
    public async Task Another_user_of_the_same_name_is_refused_as_not_unique()
    {
        using var client = await ConnectedAsync("twice");
        await client.SendAsync("POST", "Users", User("bjensen", "twice.example"));
        var again = await client.SendAsync("POST", "Users", User("BJensen", "other.example"));
        (again.Status, (string)again.Body["scimType"]!).ShouldBe((HttpStatusCode.Conflict, "uniqueness"));
    }

    [Fact]
    public async Task An_address_that_another_source_says_is_refused_by_its_name()
    {
        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk("directory", new { people = "name,mail\nFirst,held@held.example\n" });
        using var client = await ConnectedAsync("second source");
        var answer = await client.SendAsync("POST", "Users", User("held", "held.example"));
        (answer.Status, ((string)answer.Body["detail"]!).Contains("“Files”", StringComparison.Ordinal)).ShouldBe(
            (HttpStatusCode.Conflict, true)
        );
    }

    [Theory]
    [InlineData("{", "invalidSyntax")]
    [InlineData("[]", "invalidSyntax")]
    [InlineData("""{ "userName": "a", "userName": "b" }""", "invalidSyntax")]
    [InlineData("""{ "emails": [{ "value": "a@wrong.example" }] }""", "invalidValue")]
    [InlineData("""{ "userName": "a" }""", "invalidValue")]
    [InlineData("""{ "userName": "a", "emails": [{ "value": "nothing" }] }""", "invalidValue")]
    [InlineData("""{ "userName": "a@wrong.example", "active": "perhaps" }""", "invalidValue")]
    public async Task A_user_who_is_malformed_is_refused_by_the_standard_s_word(string body, string word)
    {
        using var client = await ConnectedAsync($"malformed {body.Length}");
        var answer = await client.SendAsync("POST", "Users", body);
        (answer.Status, (string)answer.Body["scimType"]!, (string)answer.Body["status"]!).ShouldBe(
            (HttpStatusCode.BadRequest, word, "400")
        );
    }

    [Fact]
    public async Task A_replacement_is_the_whole_of_a_user()
    {
        using var client = await ConnectedAsync("puts");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "put.example"));
        var put = await client.SendAsync(
            "PUT",
            $"Users/{made.Id}",
            """{ "userName": "bjensen", "emails": [{ "value": "bjensen@put.example" }], "displayName": "Barbara" }"""
        );
        (put.Status, (string)put.Body["displayName"]!, put.Body.ContainsKey("title")).ShouldBe(
            (HttpStatusCode.OK, "Barbara", false)
        );
    }

    [Fact]
    public async Task A_patch_that_makes_a_user_inactive_suspends_the_account()
    {
        using var client = await ConnectedAsync("suspends");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "suspended.example"));
        await client.SendAsync(
            "PATCH",
            $"Users/{made.Id}",
            """
            { "schemas": ["urn:ietf:params:scim:api:messages:2.0:PatchOp"],
              "Operations": [{ "op": "Replace", "path": "active", "value": "False" }] }
            """
        );
        using var jonas = await product.SignInAsync("jonas");
        (await jonas.GetOk("directory/people?words=suspended.example"))
            .EnumerateArray()
            .Single()
            .GetProperty("suspended")
            .GetBoolean()
            .ShouldBeTrue();
    }

    [Fact]
    public async Task A_patch_of_an_unknown_attribute_is_refused_and_changes_nothing()
    {
        using var client = await ConnectedAsync("unknown path");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "path.example"));
        var answer = await client.SendAsync(
            "PATCH",
            $"Users/{made.Id}",
            """
            { "Operations": [
              { "op": "replace", "path": "title", "value": "Lost" }, { "op": "add", "path": "nickName", "value": "B" }] }
            """
        );
        (
            answer.Status,
            (string)answer.Body["scimType"]!,
            (string)(await client.SendAsync("GET", $"Users/{made.Id}")).Body["title"]!
        ).ShouldBe((HttpStatusCode.BadRequest, "invalidPath", "Tour Guide"));
    }

    [Fact]
    public async Task A_change_of_a_version_that_is_gone_is_refused()
    {
        using var client = await ConnectedAsync("stale");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "stale.example"));
        await client.SendAsync("PUT", $"Users/{made.Id}", User("bjensen", "stale.example", "Lead"));
        (
            await client.SendAsync(
                "PUT",
                $"Users/{made.Id}",
                User("bjensen", "stale.example", "Late"),
                ("If-Match", (string)made.Body["meta"]!["version"]!)
            )
        ).Status.ShouldBe(HttpStatusCode.PreconditionFailed);
    }

    [Fact]
    public async Task What_the_client_has_already_is_not_sent_again()
    {
        using var client = await ConnectedAsync("has it");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "has.example"));
        (
            await client.SendAsync(
                "GET",
                $"Users/{made.Id}",
                null,
                ("If-None-Match", (string)made.Body["meta"]!["version"]!)
            )
        ).Status.ShouldBe(HttpStatusCode.NotModified);
    }

    [Fact]
    public async Task A_deleted_user_is_gone_for_the_client_and_has_left_for_everybody_else()
    {
        using var client = await ConnectedAsync("deletes");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "deleted.example"));
        var deleted = (await client.SendAsync("DELETE", $"Users/{made.Id}")).Status;
        using var jonas = await product.SignInAsync("jonas");
        var person = (await jonas.GetOk("directory/people?words=deleted.example")).EnumerateArray().Single();
        (
            deleted,
            (await client.SendAsync("GET", $"Users/{made.Id}")).Status,
            (await client.SendAsync("DELETE", $"Users/{made.Id}")).Status,
            person.GetProperty("leavesOn").GetString() is not null
        ).ShouldBe((HttpStatusCode.NoContent, HttpStatusCode.NotFound, HttpStatusCode.NotFound, true));
    }

    [Fact]
    public async Task Who_was_deleted_and_is_sent_again_is_the_same_person()
    {
        using var client = await ConnectedAsync("comes back");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "back.example"));
        await client.SendAsync("DELETE", $"Users/{made.Id}");
        var back = await client.SendAsync("POST", "Users", User("bjensen", "back.example"));
        (back.Status, back.Id).ShouldBe((HttpStatusCode.Created, made.Id));
    }

    [Fact]
    public async Task A_list_is_found_by_a_filter_and_read_by_pages()
    {
        using var client = await ConnectedAsync("lists");
        foreach (var name in (string[])["ada", "bo", "cy", "di"])
        {
            await client.SendAsync("POST", "Users", User(name, "list.example", name == "di" ? "Master" : "Mate"));
        }

        var page = await client.SendAsync(
            "GET",
            "Users?filter=title%20eq%20%22mate%22&sortBy=userName&sortOrder=descending&startIndex=2&count=1"
        );
        (
            (int)page.Body["totalResults"]!,
            (int)page.Body["startIndex"]!,
            (int)page.Body["itemsPerPage"]!,
            (string)page.Body["Resources"]![0]!["userName"]!
        ).ShouldBe((3, 2, 1, "bo"));
    }

    [Theory]
    [InlineData("userName%20eq%20%22ADA%22", 1)]
    [InlineData("externalId%20eq%20%22ext-ada%22", 1)]
    [InlineData("externalId%20eq%20%22EXT-ADA%22", 0)]
    [InlineData("userName%20eq%20%22nobody%22", 0)]
    public async Task A_name_and_an_outside_id_are_found_at_once(string filter, int count)
    {
        using var client = await ConnectedAsync($"finds {filter}");
        await client.SendAsync("POST", "Users", User("ada", $"f{filter.Length}{count}.example"));
        ((int)(await client.SendAsync("GET", $"Users?filter={filter}")).Body["totalResults"]!).ShouldBe(count);
    }

    [Fact]
    public async Task A_filter_from_hell_is_refused()
    {
        using var client = await ConnectedAsync("hell");
        var answer = await client.SendAsync(
            "GET",
            $"Users?filter={new string('(', 200)}title%20pr{new string(')', 200)}"
        );
        (answer.Status, (string)answer.Body["scimType"]!).ShouldBe((HttpStatusCode.BadRequest, "invalidFilter"));
    }

    [Fact]
    public async Task A_search_by_post_answers_as_the_list_does()
    {
        using var client = await ConnectedAsync("searches");
        await client.SendAsync("POST", "Users", User("ada", "search.example"));
        var found = await client.SendAsync(
            "POST",
            "Users/.search",
            """{ "attributes": ["userName"], "filter": "userName sw \"a\"", "count": 10 }"""
        );
        found.Body["Resources"]![0]!.AsObject().Select(m => m.Key).ShouldBe(["schemas", "id", "userName"]);
    }

    [Fact]
    public async Task A_group_has_users_and_groups_as_members()
    {
        using var client = await ConnectedAsync("groups");
        var ada = await client.SendAsync("POST", "Users", User("ada", "groups.example"));
        var watch = await client.SendAsync("POST", "Groups", Group("Watch of groups", ada.Id));
        var bridge = await client.SendAsync("POST", "Groups", Group("Bridge of groups", watch.Id));
        (
            (string)watch.Body["members"]![0]!["type"]!,
            (string)bridge.Body["members"]![0]!["type"]!,
            (string)(await client.SendAsync("GET", $"Users/{ada.Id}")).Body["groups"]![0]!["display"]!
        ).ShouldBe(("User", "Group", "Watch of groups"));
    }

    [Fact]
    public async Task A_member_is_taken_out_by_a_filter()
    {
        using var client = await ConnectedAsync("takes out");
        var ada = await client.SendAsync("POST", "Users", User("ada", "out.example"));
        var bo = await client.SendAsync("POST", "Users", User("bo", "out.example"));
        var group = await client.SendAsync("POST", "Groups", Group("Watch of out", ada.Id, bo.Id));
        var patched = await client.SendAsync(
            "PATCH",
            $"Groups/{group.Id}",
            $$"""{ "Operations": [{ "op": "remove", "path": "members[value eq \"{{ada.Id}}\"]" }] }"""
        );
        patched.Body["members"]!.AsArray().Select(m => (string)m!["value"]!).ShouldBe([bo.Id]);
    }

    [Fact]
    public async Task A_member_whom_the_source_did_not_send_is_refused()
    {
        using var client = await ConnectedAsync("unknown member");
        var answer = await client.SendAsync("POST", "Groups", Group("Strangers", "u999999"));
        (answer.Status, (string)answer.Body["scimType"]!).ShouldBe((HttpStatusCode.BadRequest, "invalidValue"));
    }

    [Fact]
    public async Task A_loop_of_groups_is_kept_and_followed()
    {
        using var client = await ConnectedAsync("loops");
        var ada = await client.SendAsync("POST", "Users", User("ada", "loop.example"));
        var one = await client.SendAsync("POST", "Groups", Group("Loop one", ada.Id));
        var two = await client.SendAsync("POST", "Groups", Group("Loop two", one.Id));
        (await client.SendAsync("PUT", $"Groups/{one.Id}", Group("Loop one", ada.Id, two.Id))).Status.ShouldBe(
            HttpStatusCode.OK
        );
    }

    [Fact]
    public async Task A_deleted_group_is_gone_from_the_directory()
    {
        using var client = await ConnectedAsync("deletes groups");
        var group = await client.SendAsync("POST", "Groups", Group("Counsel of scim"));
        await client.SendAsync("DELETE", $"Groups/{group.Id}");
        using var jonas = await product.SignInAsync("jonas");
        (await jonas.GetOk("directory/groups"))
            .EnumerateArray()
            .ShouldAllBe(g => g.GetProperty("name").GetString() != "Counsel of scim");
    }

    [Fact]
    public async Task Whoever_a_program_puts_into_a_matter_s_group_is_an_entry_of_the_matter()
    {
        using var client = await ConnectedAsync("lets in");
        var nils = await client.SendAsync("POST", "Users", User("nils", "tarn.example"));
        var group = await client.SendAsync("POST", "Groups", Group("Counsel"));
        using var vera = await product.SignInAsync("vera");
        var matter = await product.OpenMatterAsync(vera);
        var id = (await vera.GetOk("directory/groups"))
            .EnumerateArray()
            .Single(g => g.GetProperty("name").GetString() == "Counsel")
            .GetProperty("id")
            .GetInt64();
        await vera.PostOk(
            $"matters/{matter}/members",
            new
            {
                personId = (long?)null,
                groupId = id,
                part = "reader",
            }
        );
        await client.SendAsync("PUT", $"Groups/{group.Id}", Group("Counsel", nils.Id));
        (await vera.GetOk($"matters/{matter}/history")).ToString().ShouldContain("member-entered");
    }

    [Fact]
    public async Task Every_change_is_an_entry_of_the_ledger_with_the_source_as_its_actor()
    {
        using var client = await ConnectedAsync("noted");
        await client.SendAsync("POST", "Users", User("ada", "noted.example"));
        using var ines = await product.SignInAsync("ines");
        (await ines.GetOk("ledger?verb=directory-account-added"))
            .GetProperty("entries")
            .EnumerateArray()
            .Select(e => e.GetProperty("who").GetString())
            .ShouldContain("job:scim noted");
    }

    [Theory]
    [InlineData("ServiceProviderConfig")]
    [InlineData("Schemas")]
    [InlineData("Schemas/urn:ietf:params:scim:schemas:core:2.0:User")]
    [InlineData("ResourceTypes")]
    [InlineData("ResourceTypes/Group")]
    public async Task The_service_says_what_it_offers(string address)
    {
        using var client = await ConnectedAsync($"offers {address}");
        (await client.SendAsync("GET", address)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Theory]
    [InlineData("Users")]
    [InlineData("Nothing")]
    [InlineData("ServiceProviderConfig")]
    public async Task Without_a_token_nothing_is_said(string address)
    {
        using var client = new Client(product.Address, "wd_0000");
        var answer = await client.SendAsync("GET", address);
        (answer.Status, (string)answer.Body["status"]!).ShouldBe((HttpStatusCode.Unauthorized, "401"));
    }

    [Fact]
    public async Task A_source_sees_what_it_sent_and_nothing_else()
    {
        using var one = await ConnectedAsync("sees one");
        var ada = await one.SendAsync("POST", "Users", User("ada", "sees.example"));
        using var other = await ConnectedAsync("sees other");
        (await other.SendAsync("GET", $"Users/{ada.Id}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task The_token_opens_nothing_of_the_product_s_own()
    {
        using var client = await ConnectedAsync("opens nothing");
        (
            await client.Http.GetAsync(
                new Uri("/api/directory/people", UriKind.Relative),
                TestContext.Current.CancellationToken
            )
        ).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_disconnected_source_is_let_in_no_more()
    {
        using var client = await ConnectedAsync("ends");
        using var jonas = await product.SignInAsync("jonas");
        var id = await SourceAsync(jonas, "ends");
        await jonas.PostOk($"directory/sources/{id}/end", new { });
        (await client.SendAsync("GET", "Users")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_new_token_makes_the_old_one_worthless()
    {
        using var client = await ConnectedAsync("renews");
        using var jonas = await product.SignInAsync("jonas");
        var id = await SourceAsync(jonas, "renews");
        var token = (await jonas.PostOk($"directory/sources/{id}/token", new { })).GetProperty("token").GetString()!;
        using var renewed = new Client(product.Address, token);
        ((await client.SendAsync("GET", "Users")).Status, (await renewed.SendAsync("GET", "Users")).Status).ShouldBe(
            (HttpStatusCode.Unauthorized, HttpStatusCode.OK)
        );
    }

    [Fact]
    public async Task A_new_address_keeps_what_was_given_to_the_old_one()
    {
        using var client = await ConnectedAsync("renames");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "renamed.example"));
        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk(
            "directory",
            new
            {
                places = "place,name\nrenamed,Renamed\n",
                grants = "to,place,role\nbjensen@renamed.example,renamed,reader\n",
            }
        );
        await client.SendAsync(
            "PATCH",
            $"Users/{made.Id}",
            """
            { "schemas": ["urn:ietf:params:scim:api:messages:2.0:PatchOp"],
              "Operations": [{ "op": "replace", "path": "emails[type eq \"work\"].value", "value": "new@renamed.example" }] }
            """
        );
        using var manager = await product.SignInAsync("mikkel");
        (await manager.GetOk("access/reach?resource=renamed"))
            .GetProperty("reach")
            .EnumerateArray()
            .Single()
            .GetProperty("person")
            .GetString()
            .ShouldBe("new@renamed.example");
    }

    [Fact]
    public async Task A_new_address_keeps_what_was_acknowledged_by_the_old_one()
    {
        using var client = await ConnectedAsync("acknowledges");
        var made = await client.SendAsync("POST", "Users", User("bjensen", "reads.example"));
        await using (var db = product.Database())
        {
            db.Policies.Add(
                new()
                {
                    Code = "POL-SCIM",
                    Title = "Devices",
                    Copies =
                    [
                        new()
                        {
                            Number = 1,
                            Mail = "bjensen@reads.example",
                            Name = "Babs",
                        },
                    ],
                }
            );
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        await client.SendAsync(
            "PATCH",
            $"Users/{made.Id}",
            """
            { "schemas": ["urn:ietf:params:scim:api:messages:2.0:PatchOp"],
              "Operations": [{ "op": "replace", "path": "emails[type eq \"work\"].value", "value": "new@reads.example" }] }
            """
        );
        await using var after = product.Database();
        (
            await after.PolicyCopies.SingleAsync(c => c.Name == "Babs", TestContext.Current.CancellationToken)
        ).Mail.ShouldBe("new@reads.example");
    }

    private static async Task<long> SourceAsync(Api api, string name) =>
        (await api.GetOk("directory/sources"))
            .EnumerateArray()
            .Single(s => s.GetProperty("name").GetString() == name)
            .GetProperty("id")
            .GetInt64();

    private static string User(string name, string domain, string title = "Tour Guide") =>
        $$"""
            {
              "schemas": ["urn:ietf:params:scim:schemas:core:2.0:User", "{{Enterprise}}"],
              "externalId": "ext-{{name}}",
              "userName": "{{name}}",
              "name": { "formatted": "Ms. Barbara J Jensen, III", "familyName": "Jensen", "givenName": "Barbara" },
              "displayName": "Babs Jensen",
              "emails": [
                { "value": "babs@{{domain}}.home", "type": "home" },
                { "value": "{{name}}@{{domain}}", "type": "work", "primary": true }
              ],
              "title": "{{title}}",
              "active": true,
              "{{Enterprise}}": { "department": "Tour Operations" }
            }
            """;

    private static string Group(string name, params string[] members) =>
        new JsonObject
        {
            ["schemas"] = new JsonArray("urn:ietf:params:scim:schemas:core:2.0:Group"),
            ["displayName"] = name,
            ["members"] = new JsonArray([.. members.Select(m => (JsonNode)new JsonObject { ["value"] = m })]),
        }.ToJsonString();

    private async Task<Client> ConnectedAsync(string name)
    {
        using var jonas = await product.SignInAsync("jonas");
        var made = await jonas.PostOk("directory/sources", new { kind = "scim", name });
        return new(product.Address, made.GetProperty("token").GetString()!);
    }

    private readonly record struct ScimAnswer(HttpStatusCode Status, JsonObject Body, HttpResponseMessage Response)
    {
        public string Id => (string)Body["id"]!;
    }

    /// <summary>A program of a directory.</summary>
    private sealed class Client : IDisposable
    {
        public Client(Uri address, string token)
        {
            Http = new() { BaseAddress = address };
            Http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        }

        public HttpClient Http { get; }

        public async Task<ScimAnswer> SendAsync(
            string method,
            string address,
            string? body = null,
            params (string Name, string Value)[] headers
        )
        {
            using var request = new HttpRequestMessage(
                new HttpMethod(method),
                new Uri($"/scim/v2/{address}", UriKind.Relative)
            );
            if (body is not null)
            {
                request.Content = new StringContent(body, Encoding.UTF8, "application/scim+json");
            }

            foreach (var (name, value) in headers)
            {
                request.Headers.TryAddWithoutValidation(name, value);
            }

            var response = await Http.SendAsync(request);
            var text = await response.Content.ReadAsStringAsync();
            return new(response.StatusCode, text.Length == 0 ? [] : JsonNode.Parse(text)!.AsObject(), response);
        }

        public void Dispose() => Http.Dispose();
    }
}

using System.Net;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;

namespace WideKeel.Server.Tests.People;

/// <summary>Where the directory comes from, and what an import would do before it does it.</summary>
public sealed class DirectorySourceTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api admin = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        admin = await product.SignInAsync("jonas");
        await admin.PostOk(
            "directory",
            new
            {
                people = "name,mail,unit,title\nAnn,ann@tarn.example,Northern,Mate\nBo,bo@tarn.example,Northern,Cook\n",
                groups = "group,member,owner\nCrew,ann@tarn.example,bo@tarn.example\nCrew,bo@tarn.example,\n",
                places = "place,name,kind,parent,inherits\nlib,Library,library,,no\nlib/plans,Plans,library,lib,yes\n",
                grants = "to,place,role\nCrew,lib,reader\nann@tarn.example,lib/plans,editor\n",
                links = "place,to,role,ends\nlib/plans,anyone,reader,2026-12-31\n",
                consents = "application,by,scopes,publisher\nreader,ann@tarn.example,mail.read files.read,Maker\n",
            }
        );
    }

    public ValueTask DisposeAsync()
    {
        admin.Dispose();
        return product.DisposeAsync();
    }

    [Fact]
    public async Task Tables_make_what_access_is_computed_from()
    {
        using var manager = await product.SignInAsync("mikkel");
        (await manager.GetOk("access/reach?person=bo@tarn.example"))
            .GetProperty("reach")
            .EnumerateArray()
            .Select(r => $"{r.GetProperty("resource").GetString()} {r.GetProperty("roles")}")
            .ShouldBe(["lib [\"reader\"]", "lib/plans [\"reader\"]"]);
    }

    [Fact]
    public async Task Consequences_say_who_appears_changes_and_disappears()
    {
        var would = await ConsequencesAsync(
            new { people = "name,mail,title\nAnn,ann@tarn.example,Master\nCy,cy@tarn.example,Cook\n", whole = true }
        );
        would
            .GetProperty("differences")
            .EnumerateArray()
            .Select(d =>
                $"{d.GetProperty("how").GetString()} {d.GetProperty("name").GetString()} {d.GetProperty("says")}"
            )
            .ShouldBe([
                "disappears Bo [\"has left from: 2026-06-15\"]",
                "changes Ann [\"title: Mate → Master\"]",
                "appears Cy []",
            ]);
    }

    [Fact]
    public async Task Consequences_change_nothing()
    {
        await ConsequencesAsync(new { people = "name,mail\nCy,cy@tarn.example\n" });
        (await admin.GetOk("directory/people?words=cy@tarn.example")).GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task Consequences_name_what_hangs_on_whoever_goes()
    {
        using var vera = await product.SignInAsync("vera");
        var would = await ConsequencesAsync(new { people = "name,mail\nAnn,ann@tarn.example\n", whole = true });
        would
            .GetProperty("touches")
            .EnumerateArray()
            .Select(t => t.GetProperty("what").GetString())
            .ShouldBe(["bo@tarn.example owns Crew"]);
    }

    [Fact]
    public async Task Custodianships_are_named_to_the_members_of_their_matter_only()
    {
        using var vera = await product.SignInAsync("vera");
        var matter = await product.OpenMatterAsync(vera);
        var bo = (await admin.GetOk("directory/people?words=bo@tarn.example"))[0].GetProperty("id").GetInt64();
        await vera.PostOk(
            $"matters/{matter}/custodians",
            new
            {
                personId = bo,
                containers = Array.Empty<long>(),
                authored = false,
            }
        );
        (await ConsequencesAsync(new { people = "name,mail\nAnn,ann@tarn.example\n", whole = true }))
            .GetProperty("touches")
            .EnumerateArray()
            .ShouldAllBe(t => !t.GetProperty("what").GetString()!.Contains("custodian"));
    }

    [Fact]
    public async Task A_leaver_s_account_here_is_named_before_it_is_forgotten()
    {
        await admin.PostOk("directory", new { people = "name,mail\nInes,ines@tarn.example\n" });
        (
            await ConsequencesAsync(
                new { people = "name,mail\nAnn,ann@tarn.example\nBo,bo@tarn.example\n", whole = true }
            )
        )
            .GetProperty("touches")
            .EnumerateArray()
            .Select(t => t.GetProperty("what").GetString()!)
            .ShouldContain(t => t.Contains("signs in here"));
    }

    [Fact]
    public async Task Ldif_brings_people_and_groups()
    {
        var imported = await admin.PostOk(
            "directory",
            new
            {
                ldif = "dn: cn=Di\nobjectClass: inetOrgPerson\ncn: Di\nmail: di@tarn.example\n\n"
                    + "dn: cn=Deck\nobjectClass: groupOfNames\ncn: Deck\nmember: cn=Di\n",
            }
        );
        (imported.GetProperty("added").GetInt32(), imported.GetProperty("groups").GetInt32()).ShouldBe((1, 1));
    }

    [Theory]
    [InlineData("ldif", "dn: cn=Di\nchangetype: delete\n", "Line 2")]
    [InlineData("places", "place,name,parent\na,A,nowhere\n", "“nowhere”")]
    [InlineData("places", "place,name,parent\na,A,b\nb,B,a\n", "loop")]
    [InlineData("places", "place,name\n,A\n", "Line 2")]
    [InlineData("grants", "to,place,role\nnobody@tarn.example,lib,reader\n", "Line 2: “nobody@tarn.example”")]
    [InlineData("grants", "to,place,role\nCrew,lib,reader\nCrew,nowhere,reader\n", "Line 3: there is no place")]
    [InlineData("grants", "to,place,role\nCrew,lib,\n", "Line 2: a grant needs a role")]
    [InlineData("links", "place,to,role\nlib,everybody,reader\n", "Line 2: a link is to")]
    [InlineData("links", "place,to,role\nnowhere,anyone,reader\n", "Line 2: there is no place")]
    [InlineData("links", "place,to,role,ends\nlib,anyone,reader,soon\n", "Line 2")]
    [InlineData("consents", "application,by,scopes,used\nx,ann@tarn.example,read,never\n", "Line 2")]
    [InlineData("people", "name,mail,kind\nX,x@tarn.example,robot\n", "“robot” is no kind")]
    [InlineData("people", "name,mail\n\"X,x@tarn.example\n", "Line 2, column 1")]
    public async Task A_line_that_is_wrong_refuses_the_whole_import(string table, string text, string says)
    {
        var answer = await admin.Post("directory", new Dictionary<string, string> { [table] = text });
        (answer.Status, answer.Body.ToString().Contains(says, StringComparison.Ordinal)).ShouldBe(
            (HttpStatusCode.BadRequest, true),
            answer.Body.ToString()
        );
    }

    [Fact]
    public async Task A_person_of_the_directory_outside_is_not_taken_over_by_a_file()
    {
        await product.WriteDirectoryAsync(DirectoryState.Empty with { People = [new("out@tarn.example", "Out")] });
        var answer = await admin.Post("directory", new { people = "name,mail\nMine,OUT@tarn.example\n" });
        (answer.Status, answer.Problem).ShouldBe((HttpStatusCode.Conflict, "other-source"));
    }

    [Fact]
    public async Task A_person_of_a_file_is_not_taken_over_by_the_directory_outside() =>
        (
            await Should.ThrowAsync<WideKeel.Sources.DirectoryFailure>(() =>
                product.WriteDirectoryAsync(DirectoryState.Empty with { People = [new("ann@tarn.example", "Other")] })
            )
        ).Message.ShouldContain("comes from “Files”");

    [Fact]
    public async Task What_a_disconnected_source_held_another_may_take_over()
    {
        await EndFilesAsync();
        await admin.PostOk("directory", new { people = "name,mail\nAnn,ann@tarn.example\n" });
        (await PersonAsync("ann@tarn.example")).GetProperty("source").GetString().ShouldBe("Files 2");
    }

    [Fact]
    public async Task A_change_of_what_came_by_a_file_is_asked_of_whoever_keeps_the_file()
    {
        using var manager = await product.SignInAsync("mikkel");
        var answer = await manager.Post(
            "access/changes",
            new
            {
                verb = "removeMember",
                who = "bo@tarn.example",
                what = "Crew",
                reason = "left the crew",
            }
        );
        (answer.Status, answer.Body.ToString().Contains("make the change there", StringComparison.Ordinal)).ShouldBe(
            (HttpStatusCode.Conflict, true)
        );
    }

    [Fact]
    public async Task What_the_directory_outside_says_is_kept_when_it_is_read()
    {
        await product.WriteDirectoryAsync(DirectoryState.Empty with { People = [new("out@tarn.example", "Out")] });
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People = [new("out@tarn.example", "Out", Title: "Pilot", Left: "2026-03-01")],
            }
        );
        var person = await PersonAsync("out@tarn.example");
        (person.GetProperty("title").GetString(), person.GetProperty("leavesOn").GetString()).ShouldBe(
            ("Pilot", "2026-02-28")
        );
    }

    [Fact]
    public async Task A_directory_outside_that_has_not_changed_is_not_read_again()
    {
        await product.WriteDirectoryAsync(DirectoryState.Empty with { People = [new("out@tarn.example", "Out")] });
        (
            await product
                .Services.GetRequiredService<OrganisationDirectory>()
                .PullAsync(product.Services.GetRequiredService<Writer>(), TestContext.Current.CancellationToken)
        ).ShouldBe(0);
    }

    [Theory]
    [InlineData("scim", " ", "name-missing")]
    [InlineData("standIn", "Another", "kind-made")]
    public async Task A_source_that_cannot_be_is_refused(string kind, string name, string problem) =>
        (await admin.Post("directory/sources", new { kind, name })).Problem.ShouldBe(problem);

    [Fact]
    public async Task Two_sources_do_not_bear_one_name()
    {
        await admin.PostOk("directory/sources", new { kind = "scim", name = "HR" });
        (await admin.Post("directory/sources", new { kind = "files", name = "HR" })).Problem.ShouldBe("name-taken");
    }

    [Fact]
    public async Task A_program_s_source_takes_no_files()
    {
        var id = (await admin.PostOk("directory/sources", new { kind = "scim", name = "HR" }))
            .GetProperty("id")
            .GetInt64();
        (await admin.Post("directory", new { source = id, people = "name,mail\nX,x@tarn.example\n" })).Problem.ShouldBe(
            "not-files"
        );
    }

    [Fact]
    public async Task A_group_that_is_gone_with_its_source_is_a_member_of_nothing()
    {
        // The directory outside puts a group of the files into one of its own; the files then name no groups any more.
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                Groups = [new("Fleet", "Fleet", null, ["Crew"])],
                Resources = [new("quay", "Quay", "library", null, true, null, false, false, null, [])],
                Grants = [new("Fleet", "quay", "reader")],
            }
        );
        await admin.PostOk("directory", new { groups = "group,member,owner\nDeck,bo@tarn.example,\n", whole = true });
        using var manager = await product.SignInAsync("mikkel");
        (await manager.GetOk("access/reach?resource=quay")).GetProperty("reach").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task A_whole_list_of_groups_keeps_those_that_are_named_as_members_only()
    {
        await admin.PostOk("directory", new { groups = "group,member\nFleet,Crew\n", whole = true });
        using var manager = await product.SignInAsync("mikkel");
        (await manager.GetOk("access/reach?person=bo@tarn.example"))
            .GetProperty("reach")
            .EnumerateArray()
            .Select(r => r.GetProperty("resource").GetString())
            .ShouldContain("lib");
    }

    [Fact]
    public async Task A_group_that_goes_takes_what_was_given_to_it_along()
    {
        await admin.PostOk("directory", new { groups = "group,member\nDeck,bo@tarn.example\n", whole = true });
        using var manager = await product.SignInAsync("mikkel");
        (await manager.GetOk("access/reach?person=bo@tarn.example")).GetProperty("reach").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task A_whole_list_of_places_without_what_another_lies_in_is_refused()
    {
        var answer = await admin.Post(
            "directory",
            new { places = "place,name,kind,parent\nlib/plans,Plans,library,lib\n", whole = true }
        );
        (answer.Status, answer.Problem, answer.Body.ToString().Contains("“lib”", StringComparison.Ordinal)).ShouldBe(
            (HttpStatusCode.BadRequest, "directory-unsound", true)
        );
    }

    [Fact]
    public async Task What_a_disconnected_source_granted_another_takes_over_once()
    {
        await EndFilesAsync();
        await admin.PostOk("directory", new { grants = "to,place,role\nCrew,lib,reader\n" });
        using var manager = await product.SignInAsync("mikkel");
        (await manager.GetOk("access/reach?person=bo@tarn.example"))
            .GetProperty("reach")
            .EnumerateArray()
            .First()
            .GetProperty("roles")
            .ToString()
            .ShouldBe("[\"reader\"]");
    }

    [Fact]
    public async Task What_the_directory_outside_granted_a_file_does_not_take_over()
    {
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                Resources = [new("quay", "Quay", "library", null, true, null, false, false, null, [])],
                Grants = [new("ann@tarn.example", "quay", "reader")],
            }
        );
        (
            await admin.Post("directory", new { grants = "to,place,role\nann@tarn.example,quay,reader\n" })
        ).Problem.ShouldBe("other-source");
    }

    [Fact]
    public async Task Ldif_has_no_word_for_suspended_and_leaves_it()
    {
        await admin.PostOk("directory", new { people = "name,mail,suspended\nAnn,ann@tarn.example,yes\n" });
        await admin.PostOk(
            "directory",
            new { ldif = "dn: cn=Ann\nobjectClass: inetOrgPerson\ncn: Ann Two\nmail: ann@tarn.example\n" }
        );
        var ann = await PersonAsync("ann@tarn.example");
        (ann.GetProperty("name").GetString(), ann.GetProperty("suspended").GetBoolean()).ShouldBe(("Ann Two", true));
    }

    [Theory]
    [InlineData(true, null)]
    [InlineData(false, "2026-05-31")]
    public async Task Whoever_left_is_back_where_a_whole_list_names_them(bool whole, string? leaves)
    {
        await admin.PostOk("directory", new { people = "name,mail,leaves\nAnn,ann@tarn.example,2026-05-31\n" });
        await admin.PostOk(
            "directory",
            new { people = "name,mail\nAnn,ann@tarn.example\nBo,bo@tarn.example\n", whole }
        );
        (await PersonAsync("ann@tarn.example")).GetProperty("leavesOn").GetString().ShouldBe(leaves);
    }

    [Fact]
    public async Task The_people_of_one_source_are_shown_alone()
    {
        await product.WriteDirectoryAsync(DirectoryState.Empty with { People = [new("out@tarn.example", "Out")] });
        var outside = (await admin.GetOk("directory/sources"))
            .EnumerateArray()
            .Single(s => s.GetProperty("kind").GetString() == "standIn")
            .GetProperty("id")
            .GetInt64();
        (await admin.GetOk($"directory/people?source={outside}"))
            .EnumerateArray()
            .Select(p => p.GetProperty("mail").GetString())
            .ShouldBe(["out@tarn.example"]);
    }

    private async Task EndFilesAsync()
    {
        var files = (await admin.GetOk("directory/sources")).EnumerateArray().Single().GetProperty("id").GetInt64();
        await admin.PostOk($"directory/sources/{files}/end", new { });
    }

    private async Task<JsonElement> PersonAsync(string mail) =>
        (await admin.GetOk($"directory/people?words={mail}"))[0];

    private async Task<JsonElement> ConsequencesAsync(object import) =>
        await admin.PostOk("directory/consequences", import);
}

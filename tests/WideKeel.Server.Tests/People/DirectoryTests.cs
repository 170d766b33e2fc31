using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.People;

/// <summary>
/// The organisation's directory as it arrives by CSV: whole or not at all, and never forgetting anybody.
/// </summary>
public sealed class DirectoryTests(Product product) : IClassFixture<Product>
{
    private const string Head = "name,mail,unit,title,manager,leaves\n";

    [Fact]
    public async Task People_are_added_once_changed_by_their_mail_address_and_never_removed()
    {
        using var jonas = await product.SignInAsync("jonas");
        var first = await ImportAsync(
            jonas,
            Head + "Ola Rand,ola@once.example,Fleet,Mate,,\nEva Rand,eva@once.example,Fleet,Cook,,\n"
        );
        (first.GetProperty("added").GetInt32(), first.GetProperty("changed").GetInt32()).ShouldBe((2, 0));
        // The same again changes nothing; another case of the address is the same person; who is not in the file stays.
        var again = await ImportAsync(jonas, Head + "Ola Rand,OLA@once.example,Fleet,Master,,2026-09-30\n");
        (again.GetProperty("added").GetInt32(), again.GetProperty("changed").GetInt32()).ShouldBe((0, 1));
        var same = await ImportAsync(jonas, Head + "Ola Rand,ola@once.example,Fleet,Master,,2026-09-30\n");
        (same.GetProperty("added").GetInt32(), same.GetProperty("changed").GetInt32()).ShouldBe((0, 0));
        var people = await FoundAsync(jonas, "once.example");
        people
            .Select(p =>
                (
                    p.GetProperty("name").GetString(),
                    p.GetProperty("title").GetString(),
                    p.GetProperty("leavesOn").GetString()
                )
            )
            .ShouldBe([("Eva Rand", "Cook", null), ("Ola Rand", "Master", "2026-09-30")]);
    }

    [Fact]
    public async Task Columns_stand_in_any_order_and_cells_may_be_quoted()
    {
        using var jonas = await product.SignInAsync("jonas");
        await ImportAsync(jonas, "mail,unit,NAME\nquoted@order.example,\"Yard, north\",\"Berg, Ada\"\n");
        var person = (await FoundAsync(jonas, "order.example")).Single();
        (
            person.GetProperty("name").GetString(),
            person.GetProperty("unit").GetString(),
            person.GetProperty("title").GetString()
        ).ShouldBe(("Berg, Ada", "Yard, north", ""));
    }

    [Theory]
    [InlineData("Good One,good@whole.example,,,,\nNo Address,nothing,,,,\n", null, "line-malformed", "Line 3")]
    [InlineData("Good One,good@whole.example,,,,30.09.2026\n", null, "line-malformed", "Line 2")]
    [InlineData(",good@whole.example,,,,\n", null, "line-malformed", "Line 2")]
    [InlineData(
        "Good One,good@whole.example,,,,\n",
        "group,member\nCrew,good@whole.example\nCrew,nobody@whole.example\n",
        "line-malformed",
        "Line 3"
    )]
    [InlineData(
        "Good One,good@whole.example,,,,\n",
        "group,mail\nCrew,good@whole.example\n",
        "column-missing",
        "“member”"
    )]
    public async Task A_line_that_cannot_be_read_refuses_the_whole_by_its_number(
        string people,
        string? groups,
        string problem,
        string says
    )
    {
        using var jonas = await product.SignInAsync("jonas");
        var answer = await jonas.Post("directory", new { people = Head + people, groups });
        (answer.Status, answer.Problem).ShouldBe((HttpStatusCode.BadRequest, problem));
        answer.Body.ToString().ShouldContain(says);
        (await FoundAsync(jonas, "whole.example")).ShouldBeEmpty();
        (await jonas.GetOk("directory/groups"))
            .EnumerateArray()
            .ShouldAllBe(g => g.GetProperty("name").GetString() != "Crew");
    }

    [Fact]
    public async Task A_group_is_what_its_last_file_said()
    {
        using var jonas = await product.SignInAsync("jonas");
        var people = Head + "Ida Holm,ida@group.example,,,,\nLars Holm,lars@group.example,,,,\n";
        await ImportAsync(
            jonas,
            people,
            "group,member\nWatch,ida@group.example\nWatch,ida@group.example\nWatch,lars@group.example\nBridge,Watch\n"
        );
        (await MembersAsync(jonas, "Watch")).ShouldBe(["Ida Holm", "Lars Holm"]);
        (await MembersAsync(jonas, "Bridge")).ShouldBe(["Watch"]);
        await ImportAsync(jonas, people, "group,member\nWatch,lars@group.example\n");
        (await MembersAsync(jonas, "Watch")).ShouldBe(["Lars Holm"]);
        (await MembersAsync(jonas, "Bridge")).ShouldBe(["Watch"]);
    }

    [Fact]
    public async Task Marks_of_a_pattern_are_searched_for_as_they_stand()
    {
        using var jonas = await product.SignInAsync("jonas");
        await ImportAsync(jonas, Head + "Under_score,a@marks.example,,,,\nUnderXscore,b@marks.example,,,,\n");
        (await FoundAsync(jonas, "Under_score"))
            .Select(p => p.GetProperty("mail").GetString())
            .ShouldBe(["a@marks.example"]);
        (await FoundAsync(jonas, "%")).ShouldBeEmpty();
    }

    private static async Task<JsonElement> ImportAsync(Api who, string? people, string? groups = null) =>
        await who.PostOk("directory", new { people, groups });

    private static async Task<List<JsonElement>> FoundAsync(Api who, string words) =>
        [.. (await who.GetOk($"directory/people?words={Uri.EscapeDataString(words)}")).EnumerateArray()];

    private static async Task<List<string?>> MembersAsync(Api who, string group) =>
        [
            .. (await who.GetOk("directory/groups"))
                .EnumerateArray()
                .Single(g => g.GetProperty("name").GetString() == group)
                .GetProperty("members")
                .EnumerateArray()
                .Select(m => m.GetString()),
        ];
}

using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Notifications;

namespace WideKeel.Server.Tests.Matters;

/// <summary>Who may enter a matter is no secret to its leads; what is in it is one to everybody else.</summary>
public sealed class MatterSecrecyTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api vera = null!;
    private Api jonas = null!;
    private long matter;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        vera = await product.SignInAsync("vera");
        jonas = await product.SignInAsync("jonas");
        await ImportAsync("group,member\nTeam,tobias@tarn.example\nBoard,tobias@tarn.example\n");
        matter = await OpenAsync("Collision");
        await LetInAsync("Team", "reader");
        await LetInAsync("Board", "reviewer");
    }

    private async Task LetInAsync(string group, string part)
    {
        var candidate = (await vera.GetOk($"matters/{matter}/candidates"))
            .EnumerateArray()
            .Single(c => c.GetProperty("name").GetString() == group);
        await vera.PostOk(
            $"matters/{matter}/members",
            new
            {
                personId = (long?)null,
                groupId = candidate.GetProperty("groupId"),
                part,
            }
        );
    }

    public ValueTask DisposeAsync()
    {
        vera.Dispose();
        jonas.Dispose();
        return product.DisposeAsync();
    }

    private Task<long> OpenAsync(string name) => product.OpenMatterAsync(vera, name);

    private Task<JsonElement> ImportAsync(string groups) =>
        jonas.PostOk(
            "directory",
            new
            {
                people = "name,mail,unit,title,manager,leaves\n"
                    + "Nils,nils@tarn.example,Fleet,,,\nTobias,tobias@tarn.example,Fleet,,,\n"
                    + "Jonas,jonas@tarn.example,Fleet,,,\n",
                groups,
            }
        );

    private async Task<List<string?>> VerbsAsync() =>
        [
            .. (await vera.GetOk($"matters/{matter}/history"))
                .EnumerateArray()
                .Select(e => e.GetProperty("verb").GetString()),
        ];

    private async Task<List<Message>> ToVeraAsync(string kind)
    {
        await using var db = product.Database();
        return
        [
            .. await db
                .Messages.AsNoTracking()
                .Where(m => m.Kind == kind && db.Users.Any(p => p.Id == m.PersonId && p.DisplayName == "vera"))
                .ToListAsync(),
        ];
    }

    private bool HasTwoDigests()
    {
        using var db = product.Database();
        return db.Messages.Count(m => m.Kind == "digest") == 2;
    }

    private async Task ResetAsync(string name) =>
        (await Product.ResetPasswordAsync(jonas, name)).Status.ShouldBe(HttpStatusCode.OK);

    [Fact]
    public async Task Who_enters_by_an_import_of_groups_stands_in_the_history_of_the_matter()
    {
        await ImportAsync("group,member\nTeam,tobias@tarn.example\nTeam,nils@tarn.example\n");
        (await VerbsAsync()).ShouldContain("member-entered");
    }

    [Fact]
    public async Task Its_leads_get_a_message_that_says_who()
    {
        await ImportAsync("group,member\nTeam,tobias@tarn.example\nTeam,nils@tarn.example\n");
        (await ToVeraAsync("matter-entrance")).ShouldHaveSingleItem().Subject.ShouldStartWith("nils may enter it now");
    }

    [Fact]
    public async Task Who_is_thrown_out_by_an_import_stands_there_too()
    {
        await ImportAsync("group,member\nTeam,nils@tarn.example\n");
        await ImportAsync("group,member\nTeam,tobias@tarn.example\n");
        (await VerbsAsync()).ShouldContain("member-left");
    }

    [Fact]
    public async Task Who_becomes_more_by_another_group_stands_there_with_the_part()
    {
        await ImportAsync("group,member\nTeam,nils@tarn.example\n");
        await ImportAsync("group,member\nBoard,nils@tarn.example\n");
        (await ToVeraAsync("matter-entrance")).Last().Subject.ShouldStartWith("nils is a reviewer of it now");
    }

    [Fact]
    public async Task The_message_names_who_made_the_change()
    {
        await ImportAsync("group,member\nTeam,nils@tarn.example\n");
        (await ToVeraAsync("matter-entrance")).Single().Body.ShouldContain("by a change that jonas made");
    }

    [Fact]
    public async Task An_administrator_in_the_group_enters_nothing()
    {
        await ImportAsync("group,member\nTeam,jonas@tarn.example\n");
        (await jonas.Get($"matters/{matter}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task An_import_that_lets_nobody_in_or_out_leaves_no_entry()
    {
        await ImportAsync("group,member\nTeam,tobias@tarn.example\n");
        (await VerbsAsync()).ShouldNotContain("member-entered");
    }

    [Fact]
    public async Task A_password_that_was_set_for_a_member_stands_in_the_history_of_the_matter()
    {
        await ImportAsync("group,member\nTeam,nils@tarn.example\n");
        await ResetAsync("nils");
        (await VerbsAsync()).ShouldContain("member-password-reset");
    }

    [Fact]
    public async Task A_custodian_of_another_matter_is_unknown_in_a_run()
    {
        var other = await OpenAsync("Other");
        var offer = (await vera.GetOk($"matters/{other}/custodians/offers?words=Tobias"))[0];
        var custodian = (
            await vera.PostOk(
                $"matters/{other}/custodians",
                new
                {
                    personId = offer.GetProperty("personId").GetInt64(),
                    containers = Array.Empty<long>(),
                    authored = true,
                }
            )
        ).GetProperty("custodians")[0].GetProperty("id").GetInt64();
        var sweep = (
            await vera.PostOk(
                $"matters/{matter}/sweeps",
                new
                {
                    name = "All",
                    definition = new
                    {
                        containers = Array.Empty<long>(),
                        custodians = Array.Empty<long>(),
                        query = (string?)null,
                        from = (string?)null,
                        to = (string?)null,
                    },
                }
            )
        ).GetProperty("sweeps")[0].GetProperty("id").GetInt64();
        await vera.PostOk($"matters/{matter}/sweeps/{sweep}/runs", new { });
        await vera.WaitForJobsAsync();
        var run = (await vera.GetOk($"matters/{matter}"))
            .GetProperty("sweeps")[0]
            .GetProperty("last")
            .GetProperty("id")
            .GetInt64();
        (await vera.Get($"matters/{matter}/runs/{run}/items?custodian={custodian}")).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task The_morning_mail_about_a_matter_is_one_of_its_own_and_belongs_to_it()
    {
        await using (var db = product.Database())
        {
            var person = await db.Users.SingleAsync(
                p => p.DisplayName == "vera",
                TestContext.Current.CancellationToken
            );
            foreach (var of in new long?[] { matter, null })
            {
                db.Messages.Add(
                    new()
                    {
                        PersonId = person.Id,
                        MatterId = of,
                        Kind = "test",
                        Subject = of is null ? "Files" : "Collision",
                        Body = "…",
                        Because = "test",
                        Link = "/",
                        Digest = true,
                        At = product.Clock.GetCurrentInstant(),
                        NextTryAt = product.Clock.GetCurrentInstant(),
                    }
                );
            }

            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        product.Clock.AdvanceDays(1);
        await vera.WaitForJobsAsync();
        await vera.WaitForAsync("today", _ => HasTwoDigests());
        (await ToVeraAsync("digest")).Single(m => m.Body.Contains("Collision")).MatterId.ShouldBe(matter);
    }
}

using System.Net;
using WideKeel.Core.People;

namespace WideKeel.Server.Tests.Access;

/// <summary>What is said before access is given, and access as tables.</summary>
public sealed class AccessWarningTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api manager = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(
            new(
                [new("ann@tarn.example", "Ann", Unit: "Northern"), new("ines@tarn.example", "Ines")],
                [
                    new("Payers", "Payers", "ines@tarn.example", ["ann@tarn.example"]),
                    new("Orders", "Orders", "ines@tarn.example", []),
                ],
                [
                    new("pay", "Payments", "library", null, true, "ines@tarn.example", false, true, null, []),
                    new("order", "Orders", "library", null, true, "ines@tarn.example", true, false, null, []),
                ],
                [new("Payers", "pay", "editor"), new("Orders", "order", "editor")],
                []
            )
        );
        manager = await product.SignInAsync("mikkel");
    }

    public ValueTask DisposeAsync()
    {
        manager.Dispose();
        return product.DisposeAsync();
    }

    private Task<Answer> PairAsync(string secondRole) =>
        manager.Put(
            "access/toxic-pairs",
            new[]
            {
                new
                {
                    name = "Order and pay",
                    first = "pay",
                    firstRole = "editor",
                    second = "order",
                    secondRole,
                },
            }
        );

    private static object Member(string who, string group) =>
        new
        {
            verb = "addMember",
            who,
            what = group,
            reason = "Helps out",
        };

    private async Task<string?[]> WarningsAsync(string who) =>
        [
            .. (await manager.PostOk("access/consequences", Member(who, "Orders")))
                .GetProperty("toxicPairs")
                .EnumerateArray()
                .Select(w => w.GetString()),
        ];

    [Fact]
    public async Task A_toxic_pair_that_a_change_would_make_is_said_before_it_is_made()
    {
        await PairAsync("editor");
        (await WarningsAsync("ann@tarn.example")).ShouldBe(["Ann editor in Payments and editor in Orders."]);
    }

    [Fact]
    public async Task A_change_that_makes_no_toxic_pair_warns_of_none()
    {
        await PairAsync("editor");
        (await WarningsAsync("ines@tarn.example")).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_toxic_pair_of_a_role_that_nobody_has_is_refused() =>
        (await PairAsync("emperor")).Problem.ShouldBe("role-unknown");

    private Task<Answer> LinkAsync(string place) =>
        manager.Post(
            "access/changes",
            new
            {
                verb = "addLink",
                who = "anyone",
                what = place,
                role = "reader",
                reason = "For the press",
            }
        );

    [Fact]
    public async Task A_place_that_is_closed_to_outsiders_takes_no_link_for_anyone() =>
        (await LinkAsync("pay")).Problem.ShouldBe("outsiders-forbidden");

    [Fact]
    public async Task A_place_that_is_open_to_outsiders_takes_a_link() =>
        (await LinkAsync("order")).Status.ShouldBe(HttpStatusCode.OK);

    private async Task<string[]> TableAsync(string path) =>
        (await manager.Http.GetStringAsync(new Uri(path, UriKind.Relative), TestContext.Current.CancellationToken))
            .TrimEnd()
            .Split("\r\n");

    [Fact]
    public async Task Who_reaches_a_place_is_a_table_with_the_ways() =>
        (await TableAsync("access/reach.csv?resource=pay")).ShouldBe([
            "person,name,place,title,kind,sensitive,roles,way,last used",
            "ann@tarn.example,Ann,pay,Payments,library,yes,editor,Ann > Payers > Payments,",
        ]);

    [Fact]
    public async Task A_table_of_what_the_directory_does_not_know_is_not_found() =>
        (await manager.Get("access/reach.csv?resource=nowhere")).Status.ShouldBe(HttpStatusCode.NotFound);

    [Fact]
    public async Task A_list_to_mend_is_a_table_with_as_many_lines_as_on_screen()
    {
        var shown = (await manager.GetOk("access/lists/ownerless")).GetProperty("lines").GetArrayLength();
        (await TableAsync("access/lists/ownerless/list.csv")).Length.ShouldBe(shown + 1);
    }

    [Fact]
    public async Task Only_the_directory_of_the_demo_is_told_to_fail()
    {
        using var admin = await product.SignInAsync("admin");
        (await admin.Post("directory/failures", new { changes = 1 })).Problem.ShouldBe("demo-only");
    }

    [Fact]
    public async Task The_directory_of_the_demo_fails_once_when_it_is_told_to()
    {
        await using (var db = product.Database())
        {
            await Microsoft.EntityFrameworkCore.EntityFrameworkQueryableExtensions.ExecuteUpdateAsync(
                db.Organisations,
                o => o.SetProperty(x => x.Demo, true),
                TestContext.Current.CancellationToken
            );
        }

        using var admin = await product.SignInAsync("admin");
        await admin.PostOk("directory/failures", new { changes = 1 });
        var first = await manager.Post("access/changes", Member("ines@tarn.example", "Payers"));
        var second = await manager.Post("access/changes", Member("ines@tarn.example", "Payers"));
        (first.Problem, second.Status).ShouldBe(("directory-failed", HttpStatusCode.OK));
    }
}

using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Server.Access;
using WideKeel.Server.People;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.People;

/// <summary>The directory is read again only where it changed, and is then what reading it whole would say.</summary>
public sealed class DirectoryTouchTests : IAsyncLifetime
{
    private static readonly string[] People = [.. Enumerable.Range(0, 6).Select(i => $"p{i}@tarn.example")];
    private static readonly string[] Groups = [.. Enumerable.Range(0, 4).Select(i => $"Group {i}")];
    private static readonly string[] Places = [.. Enumerable.Range(0, 4).Select(i => $"place-{i}")];

    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;

    private OrganisationDirectory Directory => product.Services.GetRequiredService<OrganisationDirectory>();

    private AccessGround Ground => product.Services.GetRequiredService<AccessGround>();

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(
            new(
                [.. People.Select(p => new OutsidePerson(p, p))],
                [.. Groups.Select(g => new OutsideGroup(g, g, null, []))],
                [
                    .. Places.Select(
                        (p, i) =>
                            new OutsideResource(
                                p,
                                p,
                                "library",
                                i == 0 ? null : Places[i - 1],
                                true,
                                null,
                                true,
                                false,
                                null,
                                []
                            )
                    ),
                ],
                [],
                [new("Notes", "Notes", "Papirus", [])]
            )
        );
    }

    public ValueTask DisposeAsync() => product.DisposeAsync();

    private async Task ApplyAsync(DirectoryChange change)
    {
        await using var db = product.Database();
        await DirectoryRows.ApplyAsync(db, change, Instant.FromUtc(2026, 6, 15, 9, 0));
    }

    private static T One<T>(Random random, params T[] all) => all[random.Next(all.Length)];

    private static DirectoryChange Any(Random random) =>
        random.Next(8) switch
        {
            0 or 1 => new(DirectoryVerb.AddMember, One(random, People), One(random, Groups)),
            2 => new(DirectoryVerb.AddMember, Groups[random.Next(3)], Groups[3]),
            3 => new(DirectoryVerb.RemoveMember, One(random, People), One(random, Groups)),
            4 => new(DirectoryVerb.AddGrant, One(random, [.. People, .. Groups]), One(random, Places), "reader"),
            5 => new(DirectoryVerb.RemoveGrant, One(random, [.. People, .. Groups]), One(random, Places), "reader"),
            6 => new(
                One(random, DirectoryVerb.AddLink, DirectoryVerb.RemoveLink),
                One(random, EffectiveAccess.Anyone, EffectiveAccess.Organisation),
                One(random, Places),
                "reader"
            ),
            _ => One(
                random,
                new DirectoryChange(DirectoryVerb.Suspend, One(random, People)),
                new DirectoryChange(DirectoryVerb.SetOwner, One(random, People), One(random, [.. Groups, .. Places])),
                new DirectoryChange(DirectoryVerb.AddConsent, One(random, People), "Notes", "files.read")
            ),
        };

    private static IEnumerable<string> Told(DirectoryState state) =>
        [
            .. state.People.Select(p => p.ToString()),
            .. state.Groups.Select(g => $"{g.Id} {g.Name} {g.Owner}: {string.Join(' ', g.Members)}"),
            .. state.Resources.Select(r => $"{r with { Links = [] }} {string.Join(' ', r.Links)}"),
            .. state.Grants.Select(g => g.ToString()),
            .. state.Applications.Select(a => $"{a.Id} {string.Join(' ', a.Consents.Select(c => c.By))}"),
        ];

    private static IEnumerable<string> Told(EffectiveAccess access) =>
        access
            .All()
            .Select(r => $"{r.Person} {r.Resource} {string.Join(',', r.Roles)} {string.Join('>', r.Path)}")
            .Order(StringComparer.Ordinal);

    [Fact]
    public async Task After_any_changes_the_state_is_what_reading_it_whole_says()
    {
        _ = Directory.State;
        var random = new Random(4711);
        for (var i = 0; i < 60; i++)
        {
            await ApplyAsync(Any(random));
            if (random.Next(3) > 0)
            {
                await using var db = product.Database();
                Told(Directory.State).ShouldBe(Told(await DirectoryRows.StateAsync(db, cancel: stop)));
            }
        }
    }

    [Fact]
    public async Task After_any_changes_access_is_what_computing_it_anew_says()
    {
        _ = Ground.Access;
        var random = new Random(815);
        for (var i = 0; i < 60; i++)
        {
            await ApplyAsync(Any(random));
            if (random.Next(3) > 0)
            {
                Told(Ground.Access).ShouldBe(Told(new EffectiveAccess(Ground.Model, new LocalDate(2026, 6, 15))));
            }
        }
    }

    [Fact]
    public async Task One_membership_is_read_again_alone()
    {
        var before = Directory.State;
        await ApplyAsync(new(DirectoryVerb.AddMember, People[0], Groups[0]));
        _ = Directory.State;
        var part = Directory.Since(before)!.Single();
        (part.Groups.Single().Id, part.People.Count, part.Resources.Count, part.Grants.Count).ShouldBe(
            (Groups[0], 0, 0, 0)
        );
    }

    [Fact]
    public async Task Access_follows_from_one_step_to_the_next_however_often_the_directory_was_read_between()
    {
        _ = Ground.Access;
        await ApplyAsync(new(DirectoryVerb.AddGrant, Groups[0], Places[0], "reader"));
        _ = Directory.State;
        await ApplyAsync(new(DirectoryVerb.AddMember, People[0], Groups[0]));
        _ = Directory.State;
        Ground.Access.Audience(Places[3]).ShouldBe([People[0]]);
    }

    [Fact]
    public async Task A_table_that_changes_one_person_is_followed_whatever_the_case_of_the_address()
    {
        using var jonas = await product.SignInAsync("jonas");
        const string head = "name,mail,title\n";
        await jonas.PostOk("directory", new { people = $"{head}Dot,dot@new.example,Mate\nEli,eli@new.example,Cook\n" });
        var before = Directory.State;
        await jonas.PostOk(
            "directory",
            new { people = $"{head}Dot,DOT@new.example,Master\nEli,eli@new.example,Cook\n" }
        );
        (
            Directory.State.People.Single(p => p.Name == "Dot").Title,
            Directory.Since(before)!.Single().People.Count
        ).ShouldBe(("Master", 1));
    }

    [Fact]
    public async Task A_change_that_may_have_touched_anything_is_read_whole()
    {
        var before = Directory.State;
        await using (var db = product.Database())
        {
            await db
                .DirectoryPeople.Where(p => p.Mail == People[0])
                .ExecuteUpdateAsync(p => p.SetProperty(x => x.Title, "Mate"), stop);
            await DirectoryTouches.ChangedAsync(db, [], stop);
        }

        (Directory.State.People[0].Title, Directory.Since(before)).ShouldBe(("Mate", null));
    }

    [Fact]
    public async Task What_touched_the_directory_is_not_kept_for_ever()
    {
        await using var db = product.Database();
        for (var i = 0; i < 1010; i++)
        {
            await DirectoryTouches.ChangedAsync(db, [(DirectoryThing.Person, People[0])], stop);
        }

        (await db.DirectoryTouches.CountAsync(stop)).ShouldBe(1000);
    }
}

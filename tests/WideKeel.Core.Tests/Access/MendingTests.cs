using CsCheck;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.Access;

/// <summary>Each list to mend finds what it is for, leaves alone what is right, and offers what mends the line.</summary>
public sealed class MendingTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    /// <summary>Ann is in crew, Bo is a guest, Cy has left, "robot" is a service account; crew reads the library.</summary>
    private static readonly MendingFacts Facts = new(
        Today,
        new(
            [
                new("ann", AccountKind.Person, null),
                new("bo", AccountKind.Guest, null),
                new("cy", AccountKind.Person, new(2026, 6, 1)),
                new("robot", AccountKind.Service, null),
            ],
            [new("crew", ["ann"])],
            [new("lib", null, true, []), new("lib/plans", "lib", true, []), new("pay", null, true, [])],
            [new("crew", "lib", "reader")]
        ),
        new[]
        {
            new PersonFacts("ann", "Ann", AccountKind.Person, "North", "", null, null),
            new PersonFacts("bo", "Bo", AccountKind.Guest, "", "", null, "ann"),
            new PersonFacts("cy", "Cy", AccountKind.Person, "North", "", new(2026, 6, 1), null),
            new PersonFacts("robot", "Robot", AccountKind.Service, "", "", null, null),
        }.ToDictionary(p => p.Id),
        new[]
        {
            new ResourceFacts("lib", "Library", "library", "ann", Outside: false, Sensitive: false, null),
            new ResourceFacts("lib/plans", "Plans", "folder", null, Outside: false, Sensitive: false, null),
            new ResourceFacts("pay", "Payments", "application", "ann", Outside: false, Sensitive: false, null),
        }.ToDictionary(r => r.Id),
        new Dictionary<string, string?> { ["crew"] = "ann" },
        [],
        [],
        new Dictionary<string, string>(),
        new Dictionary<(string, string), LocalDate>(),
        Since: new(2026, 1, 1)
    )
    {
        CollectedSince = new Dictionary<string, LocalDate> { ["Payments"] = new(2026, 1, 1) },
    };

    private static MendingFacts With(params Grant[] grants) =>
        Facts with
        {
            Model = Facts.Model with { Grants = [.. Facts.Model.Grants, .. grants] },
        };

    private static MendingFacts WithPlace(string id, Func<ResourceFacts, ResourceFacts> with) =>
        Facts with
        {
            Resources = Facts.Resources.Values.Select(r => r.Id == id ? with(r) : r).ToDictionary(r => r.Id),
        };

    private static MendingFacts WithLink(LinkReach to) =>
        Facts with
        {
            Model = Facts.Model with
            {
                Resources =
                [
                    .. Facts.Model.Resources.Select(r => r.Id == "lib" ? r with { Links = [new(to, "reader")] } : r),
                ],
            },
        };

    private static MendingFacts WithMembers(params string[] members) =>
        Facts with
        {
            Model = Facts.Model with { Groups = [new("crew", members)] },
        };

    private static IReadOnlyList<MendingLine> Of(string list, MendingFacts facts) =>
        Mending.List(list, facts, new EffectiveAccess(facts.Model, facts.Today))!.Lines;

    [Fact]
    public void A_directory_in_order_has_no_lines() =>
        Mending.Lists(Facts, new EffectiveAccess(Facts.Model, Today)).SelectMany(l => l.Lines).ShouldBeEmpty();

    [Fact]
    public void There_is_no_list_of_an_unknown_name() =>
        Mending.List("no-such-list", Facts, new EffectiveAccess(Facts.Model, Today)).ShouldBeNull();

    [Fact]
    public void A_link_for_anyone_is_mended_by_ending_it() =>
        Of("open-to-anyone", WithLink(LinkReach.Anyone))
            .Single()
            .Fix.ShouldBe(new(DirectoryVerb.RemoveLink, EffectiveAccess.Anyone, "lib", "reader"));

    [Fact]
    public void A_link_within_the_organisation_is_not_open_to_anyone() =>
        Of("open-to-anyone", WithLink(LinkReach.Organisation)).ShouldBeEmpty();

    [Fact]
    public void A_guest_in_a_sensitive_place_is_a_line()
    {
        var facts = WithPlace("pay", r => r with { Sensitive = true });
        Of("outsiders", facts with { Model = With(new Grant("bo", "pay", "editor")).Model })
            .Single()
            .Words.ShouldBe("Bo, a guest, is editor of Payments.");
    }

    [Fact]
    public void A_guest_in_a_place_without_sensitive_material_is_none() =>
        Of("outsiders", With(new Grant("bo", "pay", "editor"))).ShouldBeEmpty();

    [Fact]
    public void An_employee_in_a_sensitive_place_is_none() =>
        Of("outsiders", WithPlace("lib", r => r with { Sensitive = true })).ShouldBeEmpty();

    [Fact]
    public void Who_is_outside_the_region_of_a_place_leaves_the_group_that_gives_it() =>
        Of(
                "regions",
                WithPlace("lib", r => r with { Region = "Union" }) with
                {
                    Regions = new Dictionary<string, string> { ["North"] = "Islands" },
                }
            )
            .Single()
            .Fix.ShouldBe(new(DirectoryVerb.RemoveMember, "ann", "crew"));

    [Fact]
    public void Who_is_within_the_region_is_no_line() =>
        Of(
                "regions",
                WithPlace("lib", r => r with { Region = "Union" }) with
                {
                    Regions = new Dictionary<string, string> { ["North"] = "Union" },
                }
            )
            .ShouldBeEmpty();

    [Fact]
    public void A_grant_never_used_is_unused() =>
        Of("unused", With(new Grant("ann", "pay", "editor"))).Single().Who.ShouldBe("ann");

    [Theory]
    [InlineData(90, false)]
    [InlineData(91, true)]
    public void A_grant_is_unused_after_ninety_whole_days(int daysAgo, bool unused) =>
        Of(
                "unused",
                With(new Grant("ann", "pay", "editor")) with
                {
                    LastUse = new Dictionary<(string, string), LocalDate>
                    {
                        [("ann", "Payments")] = Today.PlusDays(-daysAgo),
                    },
                }
            )
            .Any()
            .ShouldBe(unused);

    [Theory]
    [InlineData(89, false)]
    [InlineData(90, true)]
    public void Nothing_is_called_unused_before_its_events_are_collected_for_ninety_days(int daysKnown, bool said) =>
        Of(
                "unused",
                With(new Grant("ann", "pay", "editor")) with
                {
                    CollectedSince = new Dictionary<string, LocalDate> { ["Payments"] = Today.PlusDays(-daysKnown) },
                }
            )
            .Any()
            .ShouldBe(said);

    [Fact]
    public void A_place_whose_events_nobody_collects_is_not_called_unused() =>
        Of("unused", With(new Grant("ann", "lib/plans", "editor"))).ShouldBeEmpty();

    [Theory]
    [InlineData("robot")]
    [InlineData("cy")]
    [InlineData("crew")]
    public void Services_leavers_and_groups_are_not_called_idle(string who) =>
        Of("unused", With(new Grant(who, "pay", "editor"))).ShouldBeEmpty();

    [Fact]
    public void A_grant_that_a_group_gives_already_is_past_the_groups() =>
        Of("direct", With(new Grant("ann", "lib/plans", "reader")))
            .Single()
            .Words.ShouldBe("Ann is reader of Plans by crew already.");

    [Fact]
    public void A_grant_of_another_role_is_not_past_the_groups() =>
        Of("direct", With(new Grant("ann", "lib/plans", "editor"))).ShouldBeEmpty();

    [Fact]
    public void Whoever_has_left_leaves_groups_and_grants()
    {
        var facts = WithMembers("ann", "cy");
        Of("left", facts with { Model = facts.Model with { Grants = [new("cy", "pay", "editor")] } })
            .Select(l => l.Fix)
            .ShouldBe([
                new(DirectoryVerb.RemoveMember, "cy", "crew"),
                new(DirectoryVerb.RemoveGrant, "cy", "pay", "editor"),
            ]);
    }

    [Theory]
    [InlineData("owner", true)]
    [InlineData("editor", true)]
    [InlineData("reader", false)]
    public void A_service_account_may_read_but_own_nothing(string role, bool line) =>
        Of("services", With(new Grant("robot", "pay", role))).Any().ShouldBe(line);

    [Fact]
    public void A_service_account_does_not_belong_in_a_group_of_people() =>
        Of("services", WithMembers("ann", "robot"))
            .Single()
            .Fix.ShouldBe(new(DirectoryVerb.RemoveMember, "robot", "crew"));

    [Theory]
    [InlineData("approver", "payer", true)]
    [InlineData("approver", "reader", false)]
    [InlineData("reader", "payer", false)]
    public void A_toxic_pair_needs_both_of_its_roles(string first, string second, bool toxic) =>
        Of(
                Mending.Toxic,
                With(new Grant("ann", "pay", second), new Grant("ann", "lib", first)) with
                {
                    Toxic = [new("Pays what is approved", "lib", "approver", "pay", "payer")],
                }
            )
            .Any()
            .ShouldBe(toxic);

    [Fact]
    public void Two_people_with_a_role_each_are_no_toxic_pair() =>
        Of(
                Mending.Toxic,
                With(new Grant("ann", "lib", "approver"), new Grant("bo", "pay", "payer")) with
                {
                    Toxic = [new("Pays what is approved", "lib", "approver", "pay", "payer")],
                }
            )
            .ShouldBeEmpty();

    [Theory]
    [InlineData("all-mail.read", 1, true)]
    [InlineData("calendar.read", 1, false)]
    [InlineData("calendar.read", 91, true)]
    public void A_consent_is_a_line_when_it_reaches_too_much_or_rests(string scope, int daysAgo, bool line) =>
        Of("consents", Facts with { Consents = [new("reader", "Maker", "ann", [scope], Today.PlusDays(-daysAgo))] })
            .Any()
            .ShouldBe(line);

    [Theory]
    [InlineData(null, true)]
    [InlineData("cy", true)]
    [InlineData("nobody", true)]
    [InlineData("ann", false)]
    public void Whoever_has_left_answers_for_nothing(string? owner, bool line) =>
        Of(Mending.WithoutOwner, WithPlace("lib", r => r with { Owner = owner })).Any().ShouldBe(line);

    [Fact]
    public void A_group_without_an_owner_is_a_line() =>
        Of(Mending.WithoutOwner, Facts with { GroupOwners = new Dictionary<string, string?> { ["crew"] = null } })
            .Single()
            .Who.ShouldBe("crew");

    /// <summary>The same facts over any model: everybody and every place is named by its id.</summary>
    private static MendingFacts Over(AccessModel model) =>
        Facts with
        {
            Model = model,
            People = model
                .People.Select(p => new PersonFacts(p.Id, p.Id, p.Kind, "North", "", p.Left, null))
                .ToDictionary(p => p.Id),
            Resources = model
                .Resources.Select(r => new ResourceFacts(r.Id, r.Id, "folder", null, false, Sensitive: true, "Union"))
                .ToDictionary(r => r.Id),
            GroupOwners = model.Groups.ToDictionary(g => g.Id, _ => (string?)null),
        };

    [Fact]
    public void Past_the_groups_is_exactly_what_all_ways_show() =>
        AccessChangeTests.Any.Sample(model =>
        {
            var access = new EffectiveAccess(model, Today);
            var expected = model
                .Grants.Where(g =>
                    model.People.Any(p => p.Id == g.To)
                    && access
                        .Ways(g.To, g.Resource)
                        .Any(w => w.Role == g.Role && w.Path.Count > 2 && w.Path[1] != EffectiveAccess.Organisation)
                )
                .Select(g => $"{g.To} {g.Resource} {g.Role}")
                .Order(StringComparer.Ordinal);
            return Mending
                .List("direct", Over(model), access)!
                .Lines.Select(l => $"{l.Who} {l.What} {l.Fix!.Role}")
                .Order(StringComparer.Ordinal)
                .SequenceEqual(expected);
        });

    [Fact]
    public void Carrying_out_what_mends_a_grant_past_the_groups_takes_nothing_from_anybody() =>
        AccessChangeTests.Any.Sample(model =>
        {
            var access = new EffectiveAccess(model, Today);
            return Mending
                .List("direct", Over(model), access)!
                .Lines.All(l => AccessChange.Differences(model, l.Fix!, Today).Count == 0);
        });

    [Fact]
    public void Carrying_out_what_mends_an_outsider_gives_nobody_anything() =>
        AccessChangeTests.Any.Sample(model =>
        {
            var access = new EffectiveAccess(model, Today);
            return Mending
                .List("outsiders", Over(model), access)!
                .Lines.Where(l => l.Fix is not null)
                .All(l => AccessChange.Differences(model, l.Fix!, Today).All(d => d.Gained.Count == 0));
        });

    [Fact]
    public void What_mends_the_reach_of_an_outsider_takes_the_way_away_that_it_names() =>
        AccessChangeTests.Any.Sample(model =>
        {
            var access = new EffectiveAccess(model, Today);
            return model
                .People.Where(p => p.Kind == AccountKind.Guest)
                .SelectMany(p => access.OfPerson(p))
                .Select(r => (Reach: r, Fix: Mending.FixOf(Over(model), access, r)))
                .Where(x => x.Fix is { Verb: DirectoryVerb.RemoveGrant or DirectoryVerb.RemoveMember })
                .All(x =>
                    access
                        .With(x.Fix!)
                        .Ways(x.Reach.Person, x.Reach.Resource)
                        .All(w => !w.Path.SequenceEqual(x.Reach.Path) || (x.Fix!.Role is { } role && w.Role != role))
                );
        });
}

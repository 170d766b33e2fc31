using WideKeel.Core.Readiness;

namespace WideKeel.Core.Tests.Readiness;

/// <summary>Profiles by the structure of OSCAL 1.1, from memory of the published model.</summary>
public sealed class OscalProfileTests
{
    private static readonly Catalog[] Known =
    [
        new(
            "base",
            "Base",
            "1",
            "OSCAL catalog 11111111",
            [new("a", "One", "A"), new("b", "One", "B"), new("c", "Two", "C")]
        ),
        new("other", "Other", "1", "", [new("x", "", "X"), new("b", "", "Another B")]),
    ];

    private static string Profile(string imports, string title = "Ours") =>
        $$$"""{"profile":{"uuid":"22222222","metadata":{"title":"{{{title}}}","version":"3"},"imports":{{{imports}}}}}""";

    private static string Codes(string imports) =>
        string.Join(' ', OscalProfile.Read(Profile(imports), Known).Value.Chosen.Requirements.Select(r => r.Code));

    private static string Refused(string json) => OscalProfile.Read(json, Known).Refusal!.Sentence;

    [Fact]
    public void All_of_a_catalog_is_chosen_where_it_says_so() =>
        Codes("""[{"href":"base.oscal.json","include-all":{}}]""").ShouldBe("a b c");

    [Fact]
    public void All_of_a_catalog_is_chosen_where_it_says_nothing() => Codes("""[{"href":"base"}]""").ShouldBe("a b c");

    [Fact]
    public void Controls_are_chosen_by_their_ids() =>
        Codes("""[{"href":"base","include-controls":[{"with-ids":["c"]},{"with-ids":["a"]}]}]""").ShouldBe("a c");

    [Fact]
    public void Controls_are_left_out_by_their_ids() =>
        Codes("""[{"href":"base","include-all":{},"exclude-controls":[{"with-ids":["b"]}]}]""").ShouldBe("a c");

    [Fact]
    public void Controls_are_chosen_by_patterns() =>
        Codes("""[{"href":"other","include-controls":[{"matching":[{"pattern":"X*"}]}]}]""").ShouldBe("x");

    [Fact]
    public void Controls_are_left_out_by_patterns() =>
        Codes(
                """[{"href":"base","exclude-controls":[{"matching":[{"pattern":"?"}],"with-ids":[]}]},{"href":"other"}]"""
            )
            .ShouldBe("x b");

    [Fact]
    public void Controls_beneath_others_are_refused_by_their_place() =>
        Refused(Profile("""[{"href":"base","include-controls":[{"with-child-controls":"yes","with-ids":["a"]}]}]"""))
            .ShouldBe(
                "profile.imports[0].include-controls[0].with-child-controls: controls beneath others are not chosen by them; name each."
            );

    private static string With(string more) => Profile("""[{"href":"base"}]""")[..^2] + "," + more + "}}";

    [Fact]
    public void A_flat_profile_has_no_headings() =>
        OscalProfile
            .Read(With("""  "merge":{"combine":{"method":"use-first"},"flat":{}}"""), Known)
            .Value.Chosen.Requirements.ShouldAllBe(r => r.Group.Length == 0);

    [Fact]
    public void A_profile_that_merges_as_it_is_keeps_the_headings() =>
        OscalProfile
            .Read(With(""" "merge":{"as-is":true}"""), Known)
            .Value.Chosen.Requirements.Select(r => r.Group)
            .ShouldBe(["One", "One", "Two"]);

    [Fact]
    public void Headings_of_its_own_are_refused_by_their_place() =>
        Refused(With(""" "merge":{"custom":{"groups":[]}}"""))
            .ShouldBe("profile.merge.custom: headings of a profile's own are not read; use as-is or flat.");

    [Fact]
    public void What_a_profile_changes_in_texts_is_said_to_be_passed_over() =>
        OscalProfile
            .Read(
                With(
                    """ "modify":{"set-parameters":[{"param-id":"p"}],"alters":[{"control-id":"a"},{"control-id":"c"}]}"""
                ),
                Known
            )
            .Value.Chosen.PassedOver.ShouldBe([
                "The profile sets parameters; texts of controls are not kept here.",
                "The profile alters texts of a, c; they are not kept here.",
            ]);

    [Fact]
    public void Ids_are_the_same_whatever_their_case() =>
        Codes("""[{"href":"base","include-controls":[{"with-ids":["A"]}]}]""").ShouldBe("a");

    [Theory]
    [InlineData("#11111111")]
    [InlineData("https://example.org/standards/base.json")]
    [InlineData("BASE.oscal.json")]
    public void A_catalog_is_found_by_its_uuid_or_the_name_of_its_file(string href) =>
        Codes($$"""[{"href":"{{href}}","include-controls":[{"with-ids":["a"]}]}]""").ShouldBe("a");

    [Fact]
    public void A_control_that_two_imports_choose_stands_once() =>
        Codes("""[{"href":"base"},{"href":"other"}]""").ShouldBe("a b c x");

    [Fact]
    public void It_keeps_what_each_import_chose() =>
        OscalProfile
            .Read(Profile("""[{"href":"base","include-controls":[{"with-ids":["c"]}]},{"href":"other"}]"""), Known)
            .Value.Imports.Select(i => $"{i.Framework}: {string.Join(' ', i.Codes)}")
            .ShouldBe(["base: c", "other: x b"]);

    [Fact]
    public void It_is_called_by_its_own_title_and_version()
    {
        var chosen = OscalProfile.Read(Profile("""[{"href":"base"}]"""), Known).Value.Chosen;
        (chosen.Code, chosen.Version, chosen.Source).ShouldBe(("ours", "3", "OSCAL profile 22222222"));
    }

    [Fact]
    public void A_profile_that_imports_itself_is_refused() =>
        Refused(Profile("""[{"href":"#22222222"}]""")).ShouldBe("profile.imports[0].href: the profile imports itself.");

    [Fact]
    public void A_profile_that_imports_what_is_not_here_is_refused_by_its_place() =>
        Refused(Profile("""[{"href":"base"},{"href":"far.json"}]"""))
            .ShouldBe("profile.imports[1].href: “far.json” is none of the frameworks here; adopt it first.");

    [Fact]
    public void An_id_that_the_catalog_has_not_is_refused_by_its_place() =>
        Refused(Profile("""[{"href":"base","include-controls":[{"with-ids":["z"]}]}]"""))
            .ShouldBe("profile.imports[0].include-controls[0].with-ids: Base has no control “z”.");

    [Fact]
    public void A_profile_that_chooses_nothing_is_refused() =>
        Refused(Profile("[]")).ShouldBe("profile.imports: the profile chooses no controls.");

    [Fact]
    public void What_is_written_reads_as_it_was()
    {
        ProfileImport[] imports = [new("base", ["a", "c"]), new("other", ["x"])];
        var written = OscalProfile.Write("Ours", "3", imports, Guid.Empty, "2026-06-15T00:00:00Z").ToJsonString();
        OscalProfile
            .Read(written, Known)
            .Value.Imports.Select(i => $"{i.Framework}: {string.Join(' ', i.Codes)}")
            .ShouldBe(["base: a c", "other: x"]);
    }

    [Fact]
    public void A_catalog_is_read_as_one_that_chose_nothing() =>
        OscalProfile
            .Read("""{"catalog":{"uuid":"c","metadata":{"title":"New"},"controls":[{"id":"n","title":"N"}]}}""", Known)
            .Value.ShouldSatisfyAllConditions(v => v.Chosen.Code.ShouldBe("new"), v => v.Imports.ShouldBeEmpty());

    [Theory]
    [InlineData("{}", "catalog: it is missing: an OSCAL catalog is expected.")]
    [InlineData("""{"profile":{}}""", "profile.metadata: it is missing.")]
    [InlineData("[", "Line 1: this is no JSON, at byte 2 of the line.")]
    public void What_is_neither_is_refused_by_its_place(string json, string says) => Refused(json).ShouldBe(says);
}

using System.Globalization;
using System.Net;
using System.Text.Json;
using DocumentFormat.OpenXml.Packaging;
using DocumentFormat.OpenXml.Spreadsheet;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.Ledger;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Tests.Content;

/// <summary>A share with letters, some of which hold what is sensitive.</summary>
public sealed class Letters : IAsyncLifetime
{
    public Product Product { get; } = new();

    public async ValueTask InitializeAsync()
    {
        await Product.InitializeAsync();
        Product.Write(
            "Island/pier 4.md",
            "2026-03-14",
            "The dolphin at pier four was damaged.",
            "title: Pier 4 survey\nowner: Maren Holt\n"
        );
        Product.Write(
            "Island/pay.md",
            "2026-04-01",
            "Wages go to IBAN GB82 WEST 1234 5698 7654 32 each month, says the bank.",
            "title: Pay\n"
        );
        Product.Write(
            "Island/pay copy.md",
            "2026-04-01",
            "Wages go to IBAN GB82 WEST 1234 5698 7654 32 each month, says the bank.",
            "title: Pay\n"
        );
        Product.Write(
            "Island/pay later.md",
            "2026-05-01",
            "Wages go to IBAN GB82 WEST 1234 5698 7654 32 each month, says the bank, in May.",
            "title: Pay in May\n"
        );
        Product.Write(
            "Northern/passport.md",
            "2026-02-01",
            "P<UTOERIKSSON<<ANNA<MARIA<<<<<<<<<<<<<<<<<<<\nL898902C36UTO7408122F1204159ZE184226B<<<<<10",
            "title: Passport\n"
        );
        Product.Write(
            "Northern/crew.md",
            "2026-02-02",
            "Crew number T1004 has joined; T1008 left.",
            "title: Crew list\ndischarged: 2026-02-03\n"
        );
        await Product.ScanAsync();
    }

    public ValueTask DisposeAsync() => Product.DisposeAsync();
}

public sealed class FindingTests(Letters letters) : IClassFixture<Letters>
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static string Asked(string cql) => $"items?cql={Uri.EscapeDataString(cql)}";

    private static string[] Titles(JsonElement page) =>
        [.. page.GetProperty("items").EnumerateArray().Select(i => i.GetProperty("title").GetString()!)];

    [Theory]
    [InlineData("dolphin", "Pier 4 survey")]
    [InlineData("pier dolphin", "Pier 4 survey")]
    [InlineData("title = pay and created < 2026-05 sortby path/sort.descending", "Pay,Pay")]
    [InlineData("wages prox/unit=sentence may", "Pay in May")]
    [InlineData("text any/relevant \"may wages\" and created > 2026-04-30", "Pay in May")]
    [InlineData("sensitive any \"iban passport-mrz\" sortby title created", "Passport,Pay,Pay,Pay in May")]
    [InlineData("owner = holt and container = \"share/isl*\"", "Pier 4 survey")]
    [InlineData("unit = northern sortby modified/sort.descending title", "Crew list,Passport")]
    public async Task A_query_finds_what_it_says_in_the_order_it_says(string cql, string titles)
    {
        using var ines = await letters.Product.SignInAsync("ines");
        Titles(await ines.GetOk(Asked(cql))).ShouldBe(titles.Split(','));
    }

    [Fact]
    public async Task Pages_of_an_ordered_query_follow_one_another_without_gap_or_repeat()
    {
        using var ines = await letters.Product.SignInAsync("ines");
        List<string> seen = [];
        string? cursor = null;
        do
        {
            var page = await ines.GetOk(
                Asked("cql.allRecords = 1 sortby title path") + "&limit=2" + (cursor is null ? "" : $"&cursor={cursor}")
            );
            seen.AddRange(Titles(page));
            cursor = page.GetProperty("next").GetString();
        } while (cursor is not null);
        seen.ShouldBe(["Crew list", "Passport", "Pay", "Pay", "Pay in May", "Pier 4 survey"]);
    }

    [Fact]
    public async Task A_mistake_in_a_query_is_answered_with_its_place_wherever_the_query_is_asked()
    {
        using var ines = await letters.Product.SignInAsync("ines");
        foreach (var path in new[] { "items", "items.csv", "items.xlsx", "items/facets" })
        {
            var answer = await ines.Get($"{path}?cql={Uri.EscapeDataString("title = pier and creatd > 2024")}");
            answer.Status.ShouldBe(HttpStatusCode.BadRequest, path);
            answer.Body.GetProperty("at").GetInt32().ShouldBe(17);
            answer.Body.GetProperty("length").GetInt32().ShouldBe(6);
            answer.Body.GetProperty("field").GetString().ShouldBe("cql");
        }

        (
            await ines.Post("filings/consequences", new { selection = new { cql = "a and" }, seriesId = (long?)null })
        ).Problem.ShouldBe("query-malformed");
    }

    [Fact]
    public async Task Words_found_are_marked_in_the_title_and_in_a_snippet_that_hides_what_is_sensitive()
    {
        using var ines = await letters.Product.SignInAsync("ines");
        var item = (await ines.GetOk(Asked("wages and may"))).GetProperty("items")[0];
        var found = item.GetProperty("found");
        var snippet = found.GetProperty("snippet").GetString()!;
        snippet.ShouldNotContain("1234");
        snippet.ShouldContain("••");
        found
            .GetProperty("snippetMarks")
            .EnumerateArray()
            .Select(m => snippet.Substring(m.GetProperty("start").GetInt32(), m.GetProperty("length").GetInt32()))
            .ShouldBe(["Wages", "May"]);
        found.GetProperty("title").GetArrayLength().ShouldBe(1);
        (await ines.GetOk("items")).GetProperty("items")[0].GetProperty("found").ValueKind.ShouldBe(JsonValueKind.Null);
    }

    [Fact]
    public async Task A_query_shows_nobody_more_than_their_remit()
    {
        using var maren = await letters.Product.SignInAsync("maren");
        Titles(await maren.GetOk(Asked("cql.allRecords = 1 sortby title path")))
            .ShouldBe(["Pay", "Pay", "Pay in May", "Pier 4 survey"]);
        (await maren.GetOk(Asked("sensitive = passport-mrz or title = passport")))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(0);
        (await maren.GetOk("sensitive"))
            .GetProperty("containers")
            .EnumerateArray()
            .Select(c => c.GetProperty("name").GetString())
            .ShouldBe(["Island"]);
        (await maren.GetOk("sensitive"))
            .GetProperty("kinds")
            .EnumerateArray()
            .Single(k => k.GetProperty("name").GetString() == "passport-mrz")
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(0);
        var offers = await maren.PostOk("query/completions", new { text = "sensitive = ", at = 12 });
        offers
            .GetProperty("offers")
            .EnumerateArray()
            .Select(o => (o.GetProperty("text").GetString(), o.GetProperty("items").GetInt64()))
            .ShouldBe([("iban", 3L)]);

        // Staff search content, but are told nothing of where sensitive data lies.
        using var pia = await letters.Product.SignInAsync("pia");
        (await pia.GetOk("items/facets"))
            .EnumerateArray()
            .Select(f => f.GetProperty("name").GetString())
            .ShouldNotContain("kind");
        (await pia.PostOk("query/completions", new { text = "sensitive = ", at = 12 }))
            .GetProperty("offers")
            .GetArrayLength()
            .ShouldBe(0);
        foreach (
            var path in new[]
            {
                "items?kind=iban",
                "items/facets?kind=iban",
                "items.csv?kind=iban",
                Asked("sensitive = iban"),
                Asked("pay not sensitive = iban"),
                Asked("pay or (pier and sensitive <> iban)"),
            }
        )
        {
            (await pia.Get(path)).Problem.ShouldBe("not-allowed", path);
        }

        (
            await pia.Post(
                "filings/consequences",
                new { selection = new { kind = new[] { "iban" } }, seriesId = (long?)null }
            )
        ).Problem.ShouldBe("not-allowed");
    }

    [Theory]
    [InlineData("ti", 2, "index", "title")]
    [InlineData("pier and cre", 12, "index", "created")]
    [InlineData("series ", 7, "relation", "=,any,==,<>")]
    [InlineData("container = \"share/is", 21, "value", "Share/Island")]
    [InlineData("type = md ", 10, "operator", "and,or,not,prox,sortby")]
    [InlineData("state = n", 9, "value", "no-rule")]
    public async Task What_can_follow_is_offered_with_counts(string text, int at, string kind, string offers)
    {
        using var ines = await letters.Product.SignInAsync("ines");
        var answer = await ines.PostOk("query/completions", new { text, at });
        answer.GetProperty("kind").GetString().ShouldBe(kind);
        answer
            .GetProperty("offers")
            .EnumerateArray()
            .Select(o => o.GetProperty("label").GetString())
            .ShouldBe(offers.Split(','));
    }

    [Fact]
    public async Task Names_of_fields_are_those_of_the_remit()
    {
        using var ines = await letters.Product.SignInAsync("ines");
        using var maren = await letters.Product.SignInAsync("maren");
        static string[] Names(JsonElement indexes) =>
            [
                .. indexes
                    .EnumerateArray()
                    .Select(i => i.GetProperty("name").GetString()!)
                    .Where(n => n.StartsWith("field.", StringComparison.Ordinal)),
            ];
        Names(await ines.GetOk("query/indexes")).ShouldBe(["field.discharged"]);
        Names(await maren.GetOk("query/indexes")).ShouldBeEmpty();
    }

    [Fact]
    public async Task Text_becomes_rows_and_rows_become_text()
    {
        using var ines = await letters.Product.SignInAsync("ines");
        var reading = await ines.PostOk(
            "query/reading",
            new { text = "(pier or quay) and created > 2024 not title =/stem tenders sortby title" }
        );
        var form = reading.GetProperty("form");
        form.GetProperty("rows")[0].GetProperty("group").GetProperty("anyOf").GetBoolean().ShouldBeTrue();
        form.GetProperty("rows")[2].GetProperty("not").GetBoolean().ShouldBeTrue();
        form.GetProperty("rows")[2].GetProperty("test").GetProperty("stem").GetBoolean().ShouldBeTrue();
        var written = await ines.PostOk(
            "query/writing",
            new { form, sortBy = reading.GetProperty("sortBy").GetString() }
        );
        written
            .GetProperty("text")
            .GetString()
            .ShouldBe("(pier or quay) and created > 2024 not title =/stem tenders sortby title");
        (await ines.PostOk("query/reading", new { text = "pier four" }))
            .GetProperty("text")
            .GetString()
            .ShouldBe("text all \"pier four\"");
        (await ines.PostOk("query/reading", new { text = "pier and" }))
            .GetProperty("mistake")
            .GetProperty("at")
            .GetInt32()
            .ShouldBe(8);
        // What somebody types into a row cannot break out of it.
        var row = new
        {
            not = false,
            test = new
            {
                index = "title",
                relation = "=",
                term = "a\" or b \\",
                stem = false,
            },
        };
        (await ines.PostOk("query/writing", new { form = new { anyOf = false, rows = new[] { row } }, sortBy = "" }))
            .GetProperty("text")
            .GetString()
            .ShouldBe("title = \"a\\\" or b \\\\\"");
    }

    [Fact]
    public async Task A_list_goes_to_a_spreadsheet_with_the_same_rows_as_to_CSV()
    {
        using var ines = await letters.Product.SignInAsync("ines");
        var cql = Uri.EscapeDataString("title = pay sortby path");
        var csv = (await ines.Http.GetStringAsync(new Uri($"items.csv?cql={cql}", UriKind.Relative), Stop)).Split(
            "\r\n",
            StringSplitOptions.RemoveEmptyEntries
        );
        await using var stream = await ines.Http.GetStreamAsync(
            new Uri($"items.xlsx?cql={cql}", UriKind.Relative),
            Stop
        );
        using var memory = new MemoryStream();
        await stream.CopyToAsync(memory, Stop);
        using var sheet = SpreadsheetDocument.Open(memory, false);
        var rows = sheet.WorkbookPart!.WorksheetParts.Single().Worksheet!.Descendants<Row>().ToList();
        rows.Count.ShouldBe(csv.Length);
        rows.Count.ShouldBe(4);
        rows[0].InnerText.ShouldContain("disposableFrom");
        csv[1].ShouldContain(",no-rule,");
        rows[1].InnerText.ShouldContain("no-rule");
        rows[1].InnerText.ShouldContain("Island/pay copy.md");
    }

    [Fact]
    public async Task Copies_and_near_copies_are_told_apart_and_only_within_the_remit()
    {
        using var maren = await letters.Product.SignInAsync("maren");
        var pay = (await maren.GetOk(Asked("path = \"island/pay.md\""))).GetProperty("items")[0];
        var alike = await maren.GetOk($"items/{pay.GetProperty("id").GetInt64()}/alike");
        alike.GetProperty("copies").GetInt64().ShouldBe(1);
        var similar = alike.GetProperty("similar").EnumerateArray().ShouldHaveSingleItem();
        similar.GetProperty("title").GetString().ShouldBe("Pay in May");
        // 14 words make 12 runs of three; "in may" adds 2 to the other: 12 of 14 runs in common.
        similar.GetProperty("likeness").GetDouble().ShouldBe(12.0 / 14, 0.1);
        (await maren.GetOk($"items?hash={alike.GetProperty("hash").GetString()}"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(2);
    }

    [Fact]
    public async Task A_program_with_a_key_finds_what_its_person_finds_within_its_scopes()
    {
        using var maren = await letters.Product.SignInAsync("maren");
        var key = (
            await maren.PostOk(
                "api-keys",
                new
                {
                    name = "finder",
                    days = 2,
                    scopes = new[] { "readContent" },
                }
            )
        ).GetProperty("key").GetString();
        using var program = new HttpClient { BaseAddress = new Uri(letters.Product.Address, "/api/") };
        program.DefaultRequestHeaders.Authorization = new("Bearer", key);
        var page = JsonDocument
            .Parse(
                await program.GetStringAsync(new Uri(Asked("title = pay or title = passport"), UriKind.Relative), Stop)
            )
            .RootElement;
        page.GetProperty("total").GetInt64().ShouldBe(3);
        (
            await program.PostAsync(
                new Uri("query/completions", UriKind.Relative),
                System.Net.Http.Json.JsonContent.Create(new { text = "unit = ", at = 7 }),
                Stop
            )
        ).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await program.GetAsync(new Uri("sensitive", UriKind.Relative), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.Forbidden
        );
        (await program.GetAsync(new Uri("items.xlsx?cql=pay", UriKind.Relative), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.OK
        );
    }

    [Fact]
    public async Task A_view_of_activity_is_none_of_content()
    {
        using var analyst = await letters.Product.SignInAsync("sunniva");
        await analyst.PostOk(
            "views",
            new
            {
                name = "Deletions",
                query = "cql=action%20%3D%20file.delete",
                shared = false,
                place = "activity",
            }
        );
        (
            (await analyst.GetOk("views")).GetArrayLength(),
            (await analyst.GetOk("views?place=activity")).GetArrayLength()
        ).ShouldBe((0, 1));
    }

    [Fact]
    public async Task Whoever_may_not_search_activity_keeps_no_view_of_it()
    {
        using var pia = await letters.Product.SignInAsync("pia");
        (
            await pia.Post(
                "views",
                new
                {
                    name = "Deletions",
                    query = "cql=x",
                    shared = true,
                    place = "activity",
                }
            )
        ).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Views_of_a_place_that_is_none_are_refused()
    {
        using var ines = await letters.Product.SignInAsync("ines");
        (await ines.Get("views?place=sea")).Problem.ShouldBe("choice-unknown");
    }

    [Fact]
    public async Task A_view_is_ones_own_until_it_is_shared()
    {
        using var ines = await letters.Product.SignInAsync("ines");
        using var maren = await letters.Product.SignInAsync("maren");
        var view = await ines.PostOk(
            "views",
            new
            {
                name = "Pay letters",
                query = "cql=title%20%3D%20pay",
                shared = false,
            }
        );
        var id = view.GetProperty("id").GetInt64();
        (await maren.GetOk("views")).GetArrayLength().ShouldBe(0);
        (
            await ines.Post(
                "views",
                new
                {
                    name = "Pay letters",
                    query = "x",
                    shared = false,
                }
            )
        ).Problem.ShouldBe("view-taken");
        (
            await ines.Put(
                $"views/{id}",
                new
                {
                    name = "Pay letters",
                    query = "cql=pay",
                    shared = true,
                },
                7
            )
        ).Problem.ShouldBe("stale");
        (
            await ines.Put(
                $"views/{id}",
                new
                {
                    name = "Pay letters",
                    query = "cql=pay",
                    shared = true,
                },
                1
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        var seen = (await maren.GetOk("views")).EnumerateArray().ShouldHaveSingleItem();
        (
            seen.GetProperty("query").GetString(),
            seen.GetProperty("own").GetBoolean(),
            seen.GetProperty("by").GetString()
        ).ShouldBe(("cql=pay", false, "ines"));
        (await maren.Delete($"views/{id}", 2)).Status.ShouldBe(HttpStatusCode.NotFound);
        (await ines.Delete($"views/{id}", 2)).Status.ShouldBe(HttpStatusCode.OK);
        (await ines.GetOk("ledger?kind=view"))
            .GetProperty("entries")
            .EnumerateArray()
            .Where(e => e.GetProperty("subjectId").GetString() == id.ToString(CultureInfo.InvariantCulture))
            .Select(e => e.GetProperty("verb").GetString())
            .ShouldBe(["dropped", "changed", "kept"]);
    }

    [Fact]
    public async Task What_is_masked_is_unmasked_only_by_right_with_a_reason_that_goes_to_the_ledger()
    {
        using var maren = await letters.Product.SignInAsync("maren");
        using var ines = await letters.Product.SignInAsync("ines");
        var id = (await maren.GetOk(Asked("title = \"pay in may\"")))
            .GetProperty("items")[0]
            .GetProperty("id")
            .GetInt64();
        var preview = await maren.GetOk($"items/{id}/preview?cql=wages");
        var text = preview.GetProperty("content").GetString()!;
        text.ShouldNotContain("WEST 1234");
        var find = preview.GetProperty("finds").EnumerateArray().ShouldHaveSingleItem();
        (find.GetProperty("kind").GetString(), find.GetProperty("confidence").GetString()).ShouldBe(
            ("iban", "certain")
        );
        text.Substring(find.GetProperty("start").GetInt32(), find.GetProperty("length").GetInt32())
            .ShouldBe("•••• •••• •••• •••• ••54 32");
        preview
            .GetProperty("marks")[0]
            .GetProperty("start")
            .GetInt32()
            .ShouldBe(text.IndexOf("Wages", StringComparison.Ordinal));

        (await maren.Post($"items/{id}/unmasking", new { why = "curious" })).Problem.ShouldBe("not-allowed");
        (await ines.Post($"items/{id}/unmasking", new { why = " " })).Problem.ShouldBe("reason-missing");
        (await ines.PostOk($"items/{id}/unmasking", new { why = "The bank asked" }))
            .GetProperty("text")
            .GetString()!
            .ShouldContain("GB82 WEST 1234 5698 7654 32");
        var entry = (await ines.GetOk($"ledger?kind=item&subject={id}&verb=unmasked"))
            .GetProperty("entries")
            .EnumerateArray()
            .ShouldHaveSingleItem();
        (entry.GetProperty("reason").GetString(), entry.GetProperty("who").GetString()).ShouldBe(
            ("The bank asked", "ines")
        );
        entry.ToString().ShouldNotContain("WEST");

        using var pia = await letters.Product.SignInAsync("pia");
        (await pia.GetOk($"items/{id}/preview")).GetProperty("finds").GetArrayLength().ShouldBe(0);
        (await pia.GetOk($"items/{id}/preview")).GetProperty("content").GetString()!.ShouldNotContain("WEST 1234");
    }

    [Fact]
    public async Task A_look_that_runs_is_followed_by_another_and_a_scan_that_runs_is_not()
    {
        // A look reads the kinds when it begins; one added while it runs would otherwise never be looked for.
        var writer = letters.Product.Services.GetRequiredService<Writer>();
        await writer.RunAsync(
            new LedgerActor("test"),
            async session =>
            {
                foreach (var (kind, follows) in new[] { (LookJob.JobKind, true), (ScanJob.JobKind, false) })
                {
                    var running = new Job
                    {
                        Kind = kind.Name,
                        SubjectId = 77,
                        Title = "running",
                        AskedBy = "test",
                        State = JobState.Running,
                    };
                    session.Db.Jobs.Add(running);
                    await session.Db.SaveChangesAsync(Stop);
                    var asked = await JobBoard.AddAsync(session, kind, 77, "asked", null, "test");
                    ReferenceEquals(asked, running).ShouldBe(!follows, kind.Name);
                    if (follows)
                    {
                        await session.Db.SaveChangesAsync(Stop);
                        ReferenceEquals(await JobBoard.AddAsync(session, kind, 77, "again", null, "test"), asked)
                            .ShouldBeTrue("one that waits is enough");
                        session.Db.Jobs.Remove(asked);
                    }

                    session.Db.Jobs.Remove(running);
                    await session.Db.SaveChangesAsync(Stop);
                }
            },
            Stop
        );
    }

    [Fact]
    public async Task A_kind_of_ones_own_is_tried_kept_found_changed_and_taken_away()
    {
        // Its own product: it adds to the share.
        await using var own = new Letters();
        await own.InitializeAsync();
        using var ines = await own.Product.SignInAsync("ines");
        using var jonas = await own.Product.SignInAsync("jonas");
        object Kind(string pattern, string title = "Crew number") =>
            new
            {
                name = "crew-number",
                title,
                pattern,
                checksum = "none",
                nearby = new[] { "Crew number" },
            };
        (await ines.PostOk("sensitive/trial", new { kind = Kind(@"\bT[0-9]{4}\b"), text = "crew number T1004" }))[0]
            .GetProperty("masked")
            .GetString()
            .ShouldBe("••••4");
        (await ines.Post("sensitive/trial", new { kind = Kind("T[0-9"), text = "x" }))
            .Body.GetProperty("title")
            .GetString()!
            .ShouldContain("a ] is missing");
        (await ines.Post("sensitive/kinds", Kind("(?<=x)y")))
            .Body.GetProperty("title")
            .GetString()!
            .ShouldContain("looks back");
        (await ines.Post("sensitive/kinds", Kind("x*"))).Problem.ShouldBe("kind-pattern");
        (
            await ines.Post(
                "sensitive/kinds",
                new
                {
                    name = "iban",
                    title = "x",
                    pattern = "x",
                    checksum = "none",
                    nearby = Array.Empty<string>(),
                }
            )
        ).Problem.ShouldBe("kind-name-taken");

        var id = (await ines.PostOk("sensitive/kinds", Kind(@"\bT[0-9]{4}\b"))).GetProperty("id").GetInt64();
        await jonas.WaitForJobsAsync();
        Titles(await ines.GetOk(Asked("sensitive = crew-number"))).ShouldBe(["Crew list"]);
        (await ines.GetOk("sensitive"))
            .GetProperty("places")
            .EnumerateArray()
            .Single(p => p.GetProperty("kind").GetString() == "crew-number")
            .GetProperty("likely")
            .GetInt64()
            .ShouldBe(2);

        (await ines.Put($"sensitive/kinds/{id}", Kind(@"\bT1008\b"), 1)).Status.ShouldBe(HttpStatusCode.OK);
        await jonas.WaitForJobsAsync();
        (await ines.GetOk("sensitive"))
            .GetProperty("places")
            .EnumerateArray()
            .Single(p => p.GetProperty("kind").GetString() == "crew-number")
            .GetProperty("likely")
            .GetInt64()
            .ShouldBe(1);

        // A changed file is looked through by the scan itself.
        own.Product.Write("Northern/crew 2.md", "2026-02-03", "Crew number T1008.", "title: Second crew list\n");
        await own.Product.ScanAsync();
        Titles(await ines.GetOk(Asked("sensitive = crew-number sortby title")))
            .ShouldBe(["Crew list", "Second crew list"]);
        (await ines.Delete($"sensitive/kinds/{id}", 2)).Status.ShouldBe(HttpStatusCode.OK);
        await jonas.WaitForJobsAsync();
        (await ines.GetOk(Asked("sensitive = crew-number"))).GetProperty("total").GetInt64().ShouldBe(0);
    }
}

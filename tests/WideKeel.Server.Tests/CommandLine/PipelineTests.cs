using System.Globalization;
using System.Text.Json;
using System.Xml.Linq;
using WideKeel.Server.CommandLine;

namespace WideKeel.Server.Tests.CommandLine;

/// <summary>The verbs that work without database and server.</summary>
public sealed class PipelineTests : IDisposable
{
    private const string Items =
        """{"id":"i-1","container":"fs/yard","created":"2015-02-28","fields":{"docdate":"2015-02-20","amount":12},"""
        + """
            "text":"The pier 4 survey. Dolphin damaged."}

            {"id":"i-2","container":"mail/claims","created":"2020-02-28","text":"A dolphin was running. Mail x.y@example.org","title":null}
            """;

    private readonly string folder = Directory.CreateTempSubdirectory("widekeel-pipeline-").FullName;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    private static async Task<(int Code, string Out, string Errors)> RunAsync(string input, params string[] args)
    {
        await using var output = new StringWriter(CultureInfo.InvariantCulture);
        await using var errors = new StringWriter(CultureInfo.InvariantCulture);
        var code = await new PipelineVerbs(new StringReader(input), output, errors).RunAsync(args);
        return (code, output.ToString(), errors.ToString());
    }

    [Theory]
    [InlineData("dolphin", "i-1 i-2")]
    [InlineData("container == \"fs/yard\"", "i-1")]
    [InlineData("field.amount > 9", "i-1")]
    [InlineData("docdate within \"2015-02-01 2015-02-28\"", "i-1")]
    [InlineData("created > \"today-P7Y\"", "i-2")]
    [InlineData("sensitive = email", "i-2")]
    [InlineData("dolphin sortby created/sort.descending", "i-2 i-1")]
    [InlineData("shark", "")]
    public async Task Match_prints_the_ids_that_match(string query, string ids)
    {
        var run = await RunAsync(Items, "match", "--query", query, "--items", "-", "--as-of", "2026-06-15");
        run.ShouldBe(
            (0, string.Concat(ids.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(i => i + "\n")), "")
        );
    }

    [Theory]
    [InlineData("{\"id\":\"a\"}\n{\"id\":\"a\"}", "Line 2, id: “a” stands on line 1 already.")]
    [InlineData("{\"id\":\"a\",\"created\":\"2015-02-30\"}", "Line 1, created: “2015-02-30” is no calendar date")]
    [InlineData("{\"id\":\"a\"}\n{\"text\":\"x\"}", "Line 2, id: it is missing.")]
    [InlineData("{\"id\":\"a\",\"text\":5}", "Line 1, text: text is expected.")]
    [InlineData("{\"id\":\"a\",\"fields\":{\"x\":[1]}}", "Line 1, fields.x: a text or a number is expected.")]
    [InlineData("{\"id\":\"a\"", "Line 1: this is no JSON")]
    [InlineData("[]", "Line 1: an object is expected.")]
    [InlineData("{\"id\":\"a\",\"id\":\"b\"}", "Line 1: this is no JSON")]
    public async Task Bad_items_are_told_with_line_and_field_and_nothing_is_printed(string items, string says)
    {
        var (code, output, errors) = await RunAsync(items, "match", "--query", "a", "--items", "-");
        (code, output).ShouldBe((2, ""));
        errors.ShouldContain(says);
    }

    [Theory]
    [InlineData("match --query")]
    [InlineData("match --items - --query")]
    [InlineData("match --colour red")]
    [InlineData("match --query a --items /no/such/file")]
    [InlineData("match --query a --items - --as-of yesterday")]
    [InlineData("cql")]
    [InlineData("cql a b c")]
    [InlineData("scan")]
    [InlineData("scan /no/such/file")]
    public async Task A_command_that_cannot_be_carried_out_says_why_and_ends_with_2(string line)
    {
        var (code, output, errors) = await RunAsync("", line.Split(' '));
        (code, output).ShouldBe((2, ""));
        errors.ShouldNotBeEmpty();
    }

    [Fact]
    public async Task Cql_prints_the_tree_as_JSON_or_XCQL_and_a_mistake_with_its_place()
    {
        var tree = JsonDocument.Parse((await RunAsync("", "cql", "title any/stem \"fish dog\" not b")).Out).RootElement;
        tree.GetProperty("boolean").GetString().ShouldBe("not");
        tree.GetProperty("left")
            .GetProperty("relation")
            .GetProperty("modifiers")[0]
            .GetProperty("name")
            .GetString()
            .ShouldBe("stem");
        XElement
            .Parse((await RunAsync("", "cql", "--xcql", "a prox/distance<=3 b")).Out)
            .Descendants("comparison")
            .Single()
            .Value.ShouldBe("<=");
        (await RunAsync("", "cql", "a and (")).ShouldBe(
            (2, "", "At character 8: expected a term, an index or (, but the query ends." + Environment.NewLine)
        );
    }

    [Fact]
    public async Task Scan_counts_characters_as_other_languages_do_and_masks_what_it_finds()
    {
        var file = Path.Combine(folder, "letter.txt");
        await File.WriteAllTextAsync(
            file,
            "👋 Card 4111 1111 1111 1111 and a.b@example.org",
            TestContext.Current.CancellationToken
        );
        var lines = (await RunAsync("", "scan", file))
            .Out.Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .Select(l => JsonDocument.Parse(l).RootElement)
            .ToList();
        lines
            .Select(l =>
                (
                    l.GetProperty("kind").GetString(),
                    l.GetProperty("confidence").GetString(),
                    l.GetProperty("start").GetInt32(),
                    l.GetProperty("end").GetInt32(),
                    l.GetProperty("masked").GetString()
                )
            )
            .ShouldBe([
                ("payment-card", "certain", 7, 26, "•••• •••• •••• 1111"),
                ("email", "certain", 31, 46, "a••@example.org"),
            ]);
        lines[0].GetProperty("file").GetString().ShouldBe(file);
        // One bad file among good ones: nothing is printed at all.
        (await RunAsync("", "scan", file, Path.Combine(folder, "missing.txt"))).Out.ShouldBeEmpty();
    }

    private const string Schedule = """
        { "fiscalYearEnd": "09-30",
          "series":   [ { "code": "FIN-020", "grade": "kept", "atEnd": "signoff", "permanent": false, "join": "later",
                          "clauses": [ { "trigger": "event:contract-ended", "cutoff": "fiscal", "period": "P7Y" },
                                       { "trigger": "created", "cutoff": "none", "period": "P10Y" } ] } ],
          "blankets": [ { "name": "All mail", "containers": ["mail/*"], "except": ["mail/claims"], "from": "modified",
                          "keep": "P3Y", "then": "destroy" },
                        { "name": "Scratch",  "containers": ["ws/scratch"], "except": [], "from": "created",
                          "keep": null, "then": "destroy", "destroyAfter": "P90D" } ],
          "holds":    [ { "name": "M-7/1", "containers": [], "items": ["i-12"], "query": null },
                        { "name": "M-8/1", "containers": [], "items": [], "query": "dolphin and sensitive = email" } ] }
        """;

    private async Task<string> FileAsync(string name, string content)
    {
        var file = Path.Combine(folder, name);
        await File.WriteAllTextAsync(file, content, TestContext.Current.CancellationToken);
        return file;
    }

    private async Task<(int Code, string Out, string Errors)> EvaluateAsync(
        string schedule,
        string items,
        string? events = null
    )
    {
        var file = await FileAsync("S.json", schedule);
        string[] args = ["evaluate", "--schedule", file, "--items", "-", "--as-of", "2026-06-15"];
        if (events is not null)
        {
            args = [.. args, "--events", await FileAsync("E.jsonl", events)];
        }

        return await RunAsync(items, args);
    }

    [Fact]
    public async Task Evaluate_prints_a_line_an_item_in_the_order_of_the_input()
    {
        const string items =
            """{ "id": "i-12", "container": "mail/claims", "series": "FIN-020", "created": "2015-02-28","""
            + """ "modified": "2016-01-04", "filed": "2016-02-01", "subject": "IMO9074729","""
            + """
                 "fields": { "docdate": "2015-02-20" }, "text": "…" }
                { "id": "i-2", "container": "mail/in", "created": "2020-01-01", "modified": "2022-02-28" }
                { "id": "i-1", "container": "ws/scratch", "created": "2026-04-01", "text": "A dolphin. a.b@example.org" }
                { "id": "i-0" }
                """;
        const string events =
            """{ "type": "contract-ended", "subject": "IMO9074729", "date": "2019-03-31", "revoked": false }""";
        var run = await EvaluateAsync(Schedule, items, events);
        run.Errors.ShouldBeEmpty();
        run.Out.Split('\n')[..4]
            .ShouldBe([
                """{"id":"i-12","state":"held","beneath":"in-term","keepUntil":"2026-09-30","disposableFrom":"2"""
                    + """026-10-01","atEnd":"signoff","grade":"kept","reasons":"""
                    + """[{"rule":"FIN-020","kind":"series","won":true,"keepUntil":"2026-09-30","clauses":"""
                    + """[{"base":"2019-03-31","cutoff":"2019-09-30","until":"2026-09-30"},"""
                    + """{"base":"2015-02-28","cutoff":"2015-02-28","until":"2025-02-28"}],"why":"The later of: """
                    + """contract ended 31 Mar 2019, fiscal year ends 30 Sep 2019, plus 7 years; created 28 Feb 2015,"""
                    + """ plus 10 years: kept through 30 Sep 2026. Then it may be destroyed after sign-off."}]}""",
                """{"id":"i-2","state":"due","beneath":"due","keepUntil":"2025-02-28","disposableFrom":"2025-03"""
                    + """-01","atEnd":"destroy","grade":"none","reasons":[{"rule":"All mail","kind":"blanket","won":"""
                    + """true,"keepUntil":"2025-02-28","clauses":[{"base":"2022-02-28","cutoff":"2022-02-28","unti"""
                    + """l":"2025-02-28"}],"why":"Last modified 28 Feb 2022, plus 3 years: it was kept through 28 """
                    + """Feb 2025. From 1 Mar 2025 it may be destroyed without sign-off."}]}""",
                """{"id":"i-1","state":"held","beneath":"in-term","keepUntil":"""
                    + """null,"disposableFrom":"2026-07-01","atEnd":"destroy","grade":"kept","reasons":"""
                    + """[{"rule":"Scratch","kind":"blanket","won":false,"keepUntil":null,"clauses":"""
                    + """[{"base":"2026-04-01","cutoff":"2026-04-01","until":"2026-06-30"}],"why":"Created 1 Apr """
                    + """2026, plus 90 days: the blanket keeps nothing. From 1 Jul 2026 it may be destroyed without """
                    + """sign-off."}]}""",
                """{"id":"i-0","state":"no-rule","beneath":"no-rule","keepUntil":null,"disposableFrom":"""
                    + """null,"atEnd":"nothing","grade":"none","reasons":[]}""",
            ]);
    }

    [Theory]
    [InlineData("\"period\": \"P7Y\"", "\"period\": \"7Y\"", "series[0].clauses[0].period: ")]
    [InlineData("event:contract-ended", "contract", "series[0].clauses[0].trigger: “contract” is none of")]
    [InlineData("\"kept\"", "\"strong\"", "series[0].grade: “strong” is none of none, kept, declared, worm")]
    [InlineData("\"keep\": \"P3Y\"", "\"keep\": null", "blankets[0].keep: a blanket has either keep")]
    [InlineData("\"09-30\"", "\"9/30\"", "fiscalYearEnd: ")]
    [InlineData("\"dolphin and", "\"dolphin and and", "holds[1].query: At character 17")]
    [InlineData("[\"mail/*\"]", "\"mail/*\"", "blankets[0].containers: a list is expected")]
    [InlineData("\"code\": \"FIN-020\", ", "", "series[0].code: it is missing")]
    [InlineData("{ \"fiscalYearEnd\"", "\"fiscalYearEnd\"", "Line 1: this is no JSON")]
    public async Task A_wrong_schedule_is_told_with_its_place(string right, string wrong, string says)
    {
        var run = await EvaluateAsync(Schedule.Replace(right, wrong, StringComparison.Ordinal), "{\"id\":\"a\"}");
        (run.Code, run.Out).ShouldBe((2, ""));
        run.Errors.ShouldContain(says);
    }

    [Fact]
    public async Task An_unknown_series_and_a_wrong_event_are_told_with_line_and_field()
    {
        (await EvaluateAsync(Schedule, "{\"id\":\"a\"}\n\n{\"id\":\"b\",\"series\":\"X-1\"}")).Errors.ShouldContain(
            "Line 3, series: there is no series X-1"
        );
        (
            await EvaluateAsync(
                Schedule,
                "{\"id\":\"a\"}",
                "{\"type\":\"t\",\"subject\":\"s\",\"date\":\"2019-13-01\"}"
            )
        ).Errors.ShouldContain("Line 1, date: “2019-13-01” is no calendar date");
    }

    [Theory]
    [InlineData("2025-02-28", 0, true)]
    [InlineData("2025-03-01", 1, false)]
    public async Task Examples_print_a_line_each_and_end_with_1_when_one_differs(string keepUntil, int code, bool ok)
    {
        var example =
            """{ "name": "a letter", "rule": "All mail", "asOf": "2026-06-15", "item": { "id": "i", "container": """
            + """ "mail/in", "modified": "2022-02-28" }, "expect": { "keepUntil": "DAY" } }""".Replace(
                "DAY",
                keepUntil,
                StringComparison.Ordinal
            );
        var file = await FileAsync("S.json", Schedule.TrimEnd()[..^1] + $", \"examples\": [ {example} ] }}");
        (await RunAsync("", "evaluate", "--examples", "--schedule", file)).ShouldBe(
            (
                code,
                """{"name":"a letter","rule":"All mail","ok":OK,"expected":{"keepUntil":"DAY"},"got":{"keepUntil":"2025-02-28"}}"""
                    .Replace("OK", ok ? "true" : "false", StringComparison.Ordinal)
                    .Replace("DAY", keepUntil, StringComparison.Ordinal) + "\n",
                ""
            )
        );
    }

    [Fact]
    public async Task Ahead_prints_a_line_a_month_with_what_falls_due_by_each_rule()
    {
        const string items = """
            { "id": "i-12", "container": "mail/claims", "series": "FIN-020", "created": "2015-02-28", "bytes": 1073741824 }
            { "id": "i-2", "container": "mail/in", "modified": "2023-07-31", "bytes": 536870912 }
            """;
        var file = await FileAsync("S.json", Schedule);
        (
            await RunAsync(
                items,
                "ahead --items - --as-of 2026-06-15 --months 3 --price 0.5 --schedule".Split(' ').Append(file).ToArray()
            )
        ).Out.ShouldBe(
            """
            {"month":"2026-06","fallsDue":0,"bytesDue":0,"kept":2,"keptBytes":1610612736,"beyondTerm":0,"cost":0.75,"byRule":{}}
            {"month":"2026-07","fallsDue":0,"bytesDue":0,"kept":2,"keptBytes":1610612736,"beyondTerm":0,"cost":0.75,"byRule":{}}
            {"month":"2026-08","fallsDue":1,"bytesDue":536870912,"kept":1,"keptBytes":1073741824,"beyondTerm":0,"cost":0.5,
            """
                + """
                "byRule":{"All mail":1}}

                """
        );
    }

    [Theory]
    [InlineData("0")]
    [InlineData("601")]
    [InlineData("many")]
    public async Task Ahead_says_how_many_months_it_can_look_at(string months)
    {
        var file = await FileAsync("S.json", Schedule);
        (await RunAsync("", "ahead", "--schedule", file, "--items", "-", "--months", months)).Errors.ShouldBe(
            $"--months: “{months}” is no number from 1 to 600." + Environment.NewLine
        );
    }

    [Fact]
    public async Task Held_items_never_fall_due()
    {
        var file = await FileAsync("S.json", Schedule);
        var run = await RunAsync(
            """{ "id": "i-12", "container": "mail/in", "modified": "2010-01-01" }""",
            "ahead",
            "--schedule",
            file,
            "--items",
            "-",
            "--as-of",
            "2026-06-15",
            "--months",
            "1"
        );
        run.Out.ShouldContain("\"fallsDue\":0");
    }
}

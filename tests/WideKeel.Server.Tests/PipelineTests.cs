using System.Globalization;
using System.Text.Json;
using System.Xml.Linq;
using WideKeel.Server.CommandLine;

namespace WideKeel.Server.Tests;

/// <summary>The verbs that work without database and server.</summary>
public sealed class PipelineTests : IDisposable
{
    private const string Items = """
        {"id":"i-1","container":"fs/yard","created":"2015-02-28","fields":{"docdate":"2015-02-20","amount":12},"text":"The pier 4 survey. Dolphin damaged."}

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
        run.ShouldBe((0, string.Concat(ids.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(i => i + "\n")), ""));
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
        tree.GetProperty("left").GetProperty("relation").GetProperty("modifiers")[0].GetProperty("name").GetString().ShouldBe("stem");
        XElement.Parse((await RunAsync("", "cql", "--xcql", "a prox/distance<=3 b")).Out).Descendants("comparison").Single().Value.ShouldBe("<=");
        (await RunAsync("", "cql", "a and (")).ShouldBe((2, "", "At character 8: expected a term, an index or (, but the query ends." + Environment.NewLine));
    }

    [Fact]
    public async Task Scan_counts_characters_as_other_languages_do_and_masks_what_it_finds()
    {
        var file = Path.Combine(folder, "letter.txt");
        await File.WriteAllTextAsync(file, "👋 Card 4111 1111 1111 1111 and a.b@example.org", TestContext.Current.CancellationToken);
        var lines = (await RunAsync("", "scan", file)).Out.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => JsonDocument.Parse(l).RootElement).ToList();
        lines.Select(l => (l.GetProperty("kind").GetString(), l.GetProperty("confidence").GetString(), l.GetProperty("start").GetInt32(), l.GetProperty("end").GetInt32(), l.GetProperty("masked").GetString()))
            .ShouldBe([("payment-card", "certain", 7, 26, "•••• •••• •••• 1111"), ("email", "certain", 31, 46, "a••@example.org")]);
        lines[0].GetProperty("file").GetString().ShouldBe(file);
        // One bad file among good ones: nothing is printed at all.
        (await RunAsync("", "scan", file, Path.Combine(folder, "missing.txt"))).Out.ShouldBeEmpty();
    }
}

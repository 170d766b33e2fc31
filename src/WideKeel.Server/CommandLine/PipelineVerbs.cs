using System.Globalization;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.CommandLine;
using WideKeel.Core.Query;
using WideKeel.Core.Sensitive;
using WideKeel.Sources;

namespace WideKeel.Server.CommandLine;

/// <summary>
/// The core in a pipeline, without database or server. What goes wrong is told on standard error, and then nothing was
/// written to standard output: results are gathered first.
/// </summary>
internal sealed partial class PipelineVerbs(TextReader input, TextWriter output, TextWriter errors)
{
    private const int Good = 0;
    private const int Differs = 1;
    private const int BadInput = 2;
    private static readonly SensitiveScan BuiltIn = new(SensitiveKinds.BuiltIn);
    private static readonly JsonSerializerOptions Plain = new()
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };
    private static readonly JsonSerializerOptions Indented = new(Plain) { WriteIndented = true };

    public const string Usage = """
        widekeel cql    [--xcql] QUERY
        widekeel match  --query QUERY --items FILE.jsonl [--as-of DATE]
        widekeel scan   FILE…
        widekeel evaluate --schedule S.json --items I.jsonl [--events E.jsonl] [--as-of DATE]
        widekeel evaluate --examples --schedule S.json [--as-of DATE]
        widekeel ahead  --schedule S.json --items I.jsonl [--events E.jsonl] [--as-of DATE] --months N [--price P]
        widekeel watch  --watches W.json --events E.jsonl [--until INSTANT] | --templates
        widekeel reach  --directory D.json [--person ID | --resource ID | --group ID] [--as-of DATE]
        widekeel readiness --model M.json --as-of DATE [--forecast DATE] [--hours N]
        widekeel sample --population N [--confidence C] --tolerable T [--expected E] [--finite]
                        [--found K --size n]
        """;

    public static bool Knows(string verb) =>
        verb is "cql" or "match" or "scan" or "evaluate" or "ahead" or "watch" or "reach" or "readiness" or "sample";

    public async Task<int> RunAsync(string[] args)
    {
        if (args[0] == "evaluate" && args.Contains("--examples"))
        {
            var examples = Examples([.. args[1..].Where(a => a != "--examples")]);
            return await WriteAsync(
                examples.Refusal is { } wrong ? wrong : Lines(examples.Value.Select(e => e.Write())),
                examples.Refusal is null && !examples.Value.All(e => e.Ok) ? Differs : Good
            );
        }

        return await WriteAsync(
            args[0] switch
            {
                "cql" => Cql(args[1..]),
                "match" => Match(args[1..]),
                "evaluate" => Evaluate(args[1..]),
                "ahead" => AheadOf(args[1..]),
                "watch" => Watch(args[1..]),
                "reach" => ReachOf(args[1..]),
                "readiness" => Readiness(args[1..]),
                "sample" => Sample(args[1..]),
                _ => await ScanAsync(args[1..]),
            },
            Good
        );
    }

    private async Task<int> WriteAsync(Outcome<string> outcome, int code)
    {
        if (outcome.Refusal is { } refusal)
        {
            await errors.WriteLineAsync(refusal.Sentence);
            return BadInput;
        }

        await output.WriteAsync(outcome.Value);
        return code;
    }

    private static Outcome<string> Cql(string[] args)
    {
        var xcql = args is ["--xcql", ..];
        if ((xcql ? args[1..] : args) is not [var text])
        {
            return new Refusal("usage", null, "Usage: widekeel cql [--xcql] QUERY");
        }

        var query = CqlParser.Parse(text);
        return query.Refusal is { } refusal ? refusal
            : xcql ? query.Value.ToXcql() + "\n"
            : query.Value.ToJson().ToJsonString(Indented) + "\n";
    }

    private Outcome<string> Match(string[] args)
    {
        var options = Options(args, "--query", "--items", "--as-of");
        if (options.Refusal is { } wrong)
        {
            return wrong;
        }

        if (!options.Value.TryGetValue("--query", out var text) || !options.Value.TryGetValue("--items", out var file))
        {
            return new Refusal("usage", null, "Usage: widekeel match --query QUERY --items FILE.jsonl [--as-of DATE]");
        }

        var today = Today(options.Value);
        if (today.Refusal is { } noDay)
        {
            return noDay;
        }

        var query = QueryCompiler.Compile(text, today.Value);
        if (query.Refusal is { } mistake)
        {
            return mistake;
        }

        var items = Read(file, BatchItem.ReadAll);
        if (items.Refusal is { } unread)
        {
            return unread;
        }

        var found = items
            .Value.Select(i => (i.Id, Item: Asked(i)))
            .Where(i => QueryMatcher.Matches(query.Value.Condition, i.Item));
        return string.Concat(QuerySort.Sorted(found, i => i.Item, query.Value.SortBy).Select(i => i.Id + "\n"));
    }

    /// <summary>
    /// The item as a query sees it; what is sensitive in it is looked for where the line does not say.
    /// </summary>
    private static QueryItem Asked(BatchItem item) =>
        item.ToQueryItem(text => [.. BuiltIn.FindIn(text).Select(f => f.Kind).Distinct()]);

    private static async Task<Outcome<string>> ScanAsync(string[] files)
    {
        if (files.Length == 0)
        {
            return new Refusal("usage", null, "Usage: widekeel scan FILE…");
        }

        var lines = new StringWriter(CultureInfo.InvariantCulture);
        foreach (var file in files)
        {
            if (!File.Exists(file))
            {
                return new Refusal("file-missing", null, $"{file}: there is no such file.");
            }

            Extracted extracted;
            try
            {
                var type = Path.GetExtension(file).TrimStart('.').ToLowerInvariant();
                await using var content = File.OpenRead(file);
                extracted = await TextExtraction.ExtractAsync(
                    content,
                    TextExtraction.Reads(type) ? type : "log",
                    CancellationToken.None
                );
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                return new Refusal("file-unreadable", null, $"{file}: {e.Message}");
            }

            if (extracted is { Text.Length: 0, Limit: { } limit })
            {
                return new Refusal("file-unreadable", null, $"{file}: {limit}");
            }

            var characters = new CharacterCount(extracted.Text);
            foreach (var find in BuiltIn.FindIn(extracted.Text))
            {
                var start = characters.At(find.Start);
                lines.Write(
                    new JsonObject
                    {
                        ["file"] = file,
                        ["kind"] = find.Kind,
                        ["confidence"] = find.Confidence.ToString().ToLowerInvariant(),
                        ["start"] = start,
                        ["end"] = characters.At(find.Start + find.Length),
                        ["masked"] = find.MaskedIn(extracted.Text),
                    }.ToJsonString(Plain)
                );
                lines.Write('\n');
            }
        }

        return lines.ToString();
    }

    private Outcome<T> Read<T>(string file, Func<TextReader, Outcome<T>> read)
    {
        if (file == "-")
        {
            return read(input);
        }

        try
        {
            using var reader = new StreamReader(file);
            var outcome = read(reader);
            return outcome.Refusal is { } refusal ? refusal with { Sentence = $"{file}: {refusal.Sentence}" } : outcome;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return new Refusal("file-unreadable", null, $"{file}: {e.Message}");
        }
    }

    private static Outcome<LocalDate> Today(Dictionary<string, string> options) =>
        DateOf(options, "--as-of") is { } date ? date : LocalDate.FromDateTime(DateTime.Now);

    /// <summary>The date of an option; null where it is not given.</summary>
    private static Outcome<LocalDate>? DateOf(Dictionary<string, string> options, string option) =>
        !options.TryGetValue(option, out var text) ? (Outcome<LocalDate>?)null
        : LocalDatePattern.Iso.Parse(text) is { Success: true, Value: var date } ? (Outcome<LocalDate>)date
        : new Refusal("date-malformed", option, $"{option}: “{text}” is no calendar date such as 2026-06-15.");

    private static Outcome<Dictionary<string, string>> Options(string[] args, params string[] known)
    {
        Dictionary<string, string> options = [];
        for (var i = 0; i < args.Length; i += 2)
        {
            if (!known.Contains(args[i]))
            {
                return new Refusal(
                    "usage",
                    args[i],
                    $"There is no {args[i]} here; known are {string.Join(", ", known)}."
                );
            }

            if (i + 1 == args.Length)
            {
                return new Refusal("usage", args[i], $"{args[i]} lacks its value.");
            }

            options[args[i]] = args[i + 1];
        }

        return options;
    }

    /// <summary>
    /// Turns places in UTF-16 units into places in characters (Unicode code points), which is what other languages
    /// count.
    /// </summary>
    private sealed class CharacterCount(string text)
    {
        private int unit;
        private int character;

        /// <summary>Places must not go back by more than one find; going forward is one pass.</summary>
        public int At(int place)
        {
            if (place < unit)
            {
                (unit, character) = (0, 0);
            }

            for (; unit < place; unit++)
            {
                character += char.IsLowSurrogate(text[unit]) ? 0 : 1;
            }

            return character;
        }
    }
}

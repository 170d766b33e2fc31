using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace WideKeel.Core.Activity;

/// <summary>
/// Decides whether a statement may run, from its parsed form as the engine gives it. Only what is listed here is
/// allowed: views that the caller may query, names that the statement itself defines and that are in scope where they are
/// used, and functions that compute. Everything else, such as a function that reads a file or a setting, is refused by
/// its name. This is the first of two walls: the engine that runs the statement can open no other file.
/// </summary>
public static partial class StatementGuard
{
    /// <summary>Functions that compute and look at nothing else.</summary>
    public static IReadOnlySet<string> Functions { get; } =
        new HashSet<string>(
            (
                "+ - * / // % ^ ** || ~~ !~~ ~~* !~~* ~ @ & | << >> -> ->> !__postfix "
                + "count count_star sum avg min max median mode stddev stddev_samp stddev_pop variance var_samp var_pop "
                + "quantile quantile_cont quantile_disc approx_count_distinct approx_quantile first last any_value arg_min "
                + "arg_max min_by max_by list array_agg string_agg group_concat bool_and bool_or bit_and bit_or corr "
                + "covar_pop covar_samp regr_slope regr_intercept mad entropy kurtosis skewness histogram product "
                + "row_number rank dense_rank percent_rank cume_dist ntile lag lead first_value last_value nth_value "
                + "lower upper length strlen substring substr left right trim ltrim rtrim replace split_part string_split "
                + "contains starts_with prefix ends_with suffix position instr strpos concat concat_ws repeat reverse lpad "
                + "rpad regexp_matches regexp_extract regexp_replace regexp_full_match like_escape ilike_escape format "
                + "printf chr ascii md5 sha256 hash levenshtein jaccard "
                + "abs ceil ceiling floor round trunc sign sqrt ln log log2 log10 exp pow power mod greatest least "
                + "isnan isfinite pi random radians degrees sin cos tan asin acos atan atan2 "
                + "coalesce ifnull nullif if error "
                + "date_trunc date_part datepart date_diff datediff date_add date_sub extract year month day hour minute "
                + "second dayofweek isodow dayofyear week weekofyear quarter epoch epoch_ms to_timestamp make_date "
                + "make_timestamp strftime strptime age last_day dayname monthname time_bucket timezone to_days to_hours "
                + "to_minutes to_seconds to_weeks to_months to_years today now current_date current_timestamp "
                + "json_extract json_extract_string json_extract_path json_extract_path_text json_type json_keys "
                + "json_array_length list_value list_extract array_extract list_contains list_distinct list_sort "
                + "list_aggregate len array_length unnest struct_pack struct_extract row map map_extract cast try_cast "
                + "range generate_series between"
            ).Split(' '),
            StringComparer.OrdinalIgnoreCase
        );

    /// <summary>Functions of tables that only count.</summary>
    private static readonly HashSet<string> TableFunctions = new(StringComparer.OrdinalIgnoreCase)
    {
        "unnest",
        "range",
        "generate_series",
    };

    /// <summary>The parameters that a statement names, in their order; what stands in texts and comments is none.</summary>
    public static IReadOnlyList<string> ParametersOf(string sql) =>
        [
            .. AToken()
                .Matches(sql)
                .Select(m => m.Groups["name"])
                .Where(g => g.Success)
                .Select(g => g.Value)
                .Distinct(StringComparer.Ordinal),
        ];

    /// <summary>A text, a quoted name, a comment, or a parameter: whatever begins first is taken whole.</summary>
    [GeneratedRegex(
        @"'(?:[^']|'')*'|""(?:[^""]|"""")*""|--[^\n]*|/\*[\s\S]*?\*/|\$(?<name>[A-Za-z_][A-Za-z0-9_]*)(?![A-Za-z0-9_$])"
    )]
    private static partial Regex AToken();

    /// <param name="tree">The statement as <c>json_serialize_sql</c> gives it.</param>
    /// <param name="views">What the caller may ask.</param>
    /// <returns>The views that it asks.</returns>
    public static Outcome<IReadOnlySet<string>> Check(JsonNode tree, IReadOnlySet<string> views)
    {
        if ((bool?)tree["error"] == true)
        {
            return new Refusal("statement-malformed", "sql", Sentence((string?)tree["error_message"]));
        }

        if (tree["statements"] is not JsonArray { Count: 1 } statements)
        {
            return new Refusal("statement-not-one", "sql", "One statement at a time, please.");
        }

        var walk = new Walk(views);
        walk.Look(statements[0], NoNames);
        return walk.Wrong is { } wrong ? wrong : walk.Asked;
    }

    private static readonly ImmutableHashSet<string> NoNames = ImmutableHashSet.Create<string>(
        StringComparer.OrdinalIgnoreCase
    );

    /// <summary>What may stand behind FROM, as the engine's tree names it.</summary>
    private static readonly HashSet<string> TableReferences =
    [
        "BASE_TABLE",
        "SUBQUERY",
        "JOIN",
        "TABLE_FUNCTION",
        "EXPRESSION_LIST",
        "EMPTY",
    ];

    private static readonly HashSet<string> QueryNodes = ["SELECT_NODE", "SET_OPERATION_NODE", "RECURSIVE_CTE_NODE"];

    private static readonly HashSet<string> Expressions =
    [
        "BETWEEN",
        "CASE",
        "CAST",
        "COLLATE",
        "COLUMN_REF",
        "COMPARISON",
        "CONJUNCTION",
        "CONSTANT",
        "FUNCTION",
        "LAMBDA",
        "OPERATOR",
        "PARAMETER",
        "POSITIONAL_REFERENCE",
        "STAR",
        "SUBQUERY",
        "WINDOW",
    ];

    private static string Sentence(string? message) =>
        message is null ? "This is no SELECT." : $"{char.ToUpperInvariant(message[0])}{message[1..].TrimEnd('.')}.";

    /// <summary>A name that no engine takes for a file: the replacement of unknown tables by files needs an ending.</summary>
    [GeneratedRegex("^[A-Za-z_][A-Za-z0-9_]*$")]
    private static partial Regex PlainName();

    /// <summary>Walks the tree with the names that are in scope at each place.</summary>
    private sealed class Walk(IReadOnlySet<string> views)
    {
        public HashSet<string> Asked { get; } = new(StringComparer.OrdinalIgnoreCase);

        public Refusal? Wrong { get; private set; }

        /// <param name="named">What WITH defines around this place.</param>
        public void Look(JsonNode? node, ImmutableHashSet<string> named)
        {
            if (Wrong is not null)
            {
                return;
            }

            if (node is JsonObject o)
            {
                Wrong = Check(o, named);
                named = WithOwnNames(o, named);
            }

            foreach (var child in Children(node))
            {
                Look(child, named);
            }
        }

        /// <summary>
        /// The names that a query's own WITH adds. Each of its definitions sees those before it, and itself only where it
        /// is recursive: what it names otherwise is outside.
        /// </summary>
        private ImmutableHashSet<string> WithOwnNames(JsonObject query, ImmutableHashSet<string> named)
        {
            if (query["cte_map"]?["map"] is not JsonArray definitions)
            {
                return named;
            }

            foreach (var definition in definitions.OfType<JsonObject>())
            {
                var name = TextOf(definition, "key") ?? "";
                if (!PlainName().IsMatch(name))
                {
                    Wrong ??= NotPlain(name);
                    return named;
                }

                var body = definition["value"]?["query"]?["node"];
                var isRecursive = body is JsonObject b && TextOf(b, "type") == "RECURSIVE_CTE_NODE";
                Look(definition["value"], isRecursive ? named.Add(name) : named);
                named = named.Add(name);
            }

            return named;
        }

        private Refusal? Check(JsonObject node, ImmutableHashSet<string> named)
        {
            var type = TextOf(node, "type");
            return TextOf(node, "class") is { } expression
                ? Expressions.Contains(expression)
                    ? Function(node)
                    : NotAllowed
                : type == "BASE_TABLE"
                    ? Table(node, named)
                    : type == "TABLE_FUNCTION"
                        ? TableFunction(node)
                        // References to tables carry a sample; queries carry the map of their WITH.
                        : node.ContainsKey("sample")
                        && node.ContainsKey("alias")
                        && !TableReferences.Contains(type ?? "")
                            ? NotAllowed
                            : node.ContainsKey("cte_map") && !QueryNodes.Contains(type ?? "")
                                ? NotAllowed
                                : Function(node);
        }

        private static Refusal NotAllowed { get; } =
            new("statement-not-allowed", "sql", "Only SELECT over the listed views can be used here.");

        private static Refusal? Function(JsonObject node) =>
            TextOf(node, "function_name") is { } function
            && (!Functions.Contains(function) || TextOf(node, "catalog") is not (null or "" or "system"))
                ? new("function-not-allowed", "sql", $"The function {function} cannot be used here.")
                : null;

        private Refusal? Table(JsonObject table, ImmutableHashSet<string> named)
        {
            var name = TextOf(table, "table_name") ?? "";
            if (TextOf(table, "schema_name") is { Length: > 0 } || TextOf(table, "catalog_name") is { Length: > 0 })
            {
                return Unknown(name);
            }

            if (!PlainName().IsMatch(name))
            {
                return NotPlain(name);
            }

            if (named.Contains(name))
            {
                return null;
            }

            if (!views.Contains(name))
            {
                return Unknown(name);
            }

            Asked.Add(name);
            return null;
        }

        private static Refusal? TableFunction(JsonObject table)
        {
            var name = table["function"] is JsonObject function ? TextOf(function, "function_name") : null;
            return name is not null && TableFunctions.Contains(name)
                ? null
                : new("function-not-allowed", "sql", $"The function {name} cannot be used here.");
        }

        private static Refusal NotPlain(string name) =>
            new(
                "name-not-plain",
                "sql",
                $"The name “{name}” of a table has other characters than letters, digits and underscores."
            );

        private Refusal Unknown(string name) =>
            new(
                "view-unknown",
                "sql",
                views.Count == 0
                    ? $"No view {name} exists, and your roles open no other."
                    : $"No view {name} exists. You can query {string.Join(", ", views.Order(StringComparer.Ordinal))}."
            );

        private static string? TextOf(JsonObject o, string name) =>
            o[name] is JsonValue value && value.TryGetValue<string>(out var text) ? text : null;

        private static IEnumerable<JsonNode?> Children(JsonNode? node) =>
            node switch
            {
                // The definitions of WITH were looked at with the names that each of them sees.
                JsonObject o => o.Where(p => p.Key != "cte_map").Select(p => p.Value),
                JsonArray a => a,
                _ => [],
            };
    }
}

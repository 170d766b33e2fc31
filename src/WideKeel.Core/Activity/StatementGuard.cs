using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace WideKeel.Core.Activity;

/// <summary>
/// Decides whether a statement may run, from its parsed form as the engine gives it. Only what is listed here is
/// allowed: views that the caller may ask, names that the statement itself defines, and functions that compute.
/// Everything else, such as a function that reads a file or a setting, is refused by its name.
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
        walk.Names(statements[0]!);
        walk.Look(statements[0]!);
        return walk.Wrong is { } wrong ? wrong : walk.Asked;
    }

    private static string Sentence(string? message) =>
        message is null ? "This is no SELECT." : $"{char.ToUpperInvariant(message[0])}{message[1..].TrimEnd('.')}.";

    private sealed class Walk(IReadOnlySet<string> views)
    {
        private readonly HashSet<string> named = new(StringComparer.OrdinalIgnoreCase);

        public HashSet<string> Asked { get; } = new(StringComparer.OrdinalIgnoreCase);

        public Refusal? Wrong { get; private set; }

        /// <summary>Gathers the names that the statement defines with WITH.</summary>
        public void Names(JsonNode? node)
        {
            if (node is JsonObject o && o["cte_map"]?["map"] is JsonArray map)
            {
                named.UnionWith(map.Select(m => (string?)m!["key"]).OfType<string>());
            }

            foreach (var child in Children(node))
            {
                Names(child);
            }
        }

        public void Look(JsonNode? node)
        {
            if (Wrong is not null)
            {
                return;
            }

            if (node is JsonObject o)
            {
                Wrong =
                    TextOf(o, "type") == "BASE_TABLE" ? Table(o)
                    : TextOf(o, "type") == "TABLE_FUNCTION" ? TableFunction(o)
                    : TextOf(o, "function_name") is { } function && !Functions.Contains(function)
                        ? new("function-not-allowed", "sql", $"The function {function} cannot be used here.")
                    : TextOf(o, "type") is "SHOW_REF" or "PIVOT" or "COLUMN_DATA"
                        ? new("statement-not-allowed", "sql", "Only SELECT over the listed views can be used here.")
                    : null;
            }

            foreach (var child in Children(node))
            {
                Look(child);
            }
        }

        private Refusal? Table(JsonObject table)
        {
            var name = TextOf(table, "table_name") ?? "";
            if (TextOf(table, "schema_name") is { Length: > 0 } || TextOf(table, "catalog_name") is { Length: > 0 })
            {
                return Unknown(name);
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

        private Refusal Unknown(string name) =>
            new(
                "view-unknown",
                "sql",
                $"There is no view {name}; there are {string.Join(", ", views.Order(StringComparer.Ordinal))}."
            );

        private static string? TextOf(JsonObject o, string name) =>
            o[name] is JsonValue value && value.TryGetValue<string>(out var text) ? text : null;

        private static IEnumerable<JsonNode?> Children(JsonNode? node) =>
            node switch
            {
                JsonObject o => o.Select(p => p.Value),
                JsonArray a => a,
                _ => [],
            };
    }
}

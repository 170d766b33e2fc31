using WideKeel.Core.Query;

namespace WideKeel.Core.Activity;

/// <summary>How a channel is fed.</summary>
public enum ChannelFeed
{
    /// <summary>Programs send lines over HTTP with the channel's key.</summary>
    Http,

    /// <summary>Syslog (RFC 5424) over TCP.</summary>
    Syslog,

    /// <summary>Files that appear in a folder, or grow there.</summary>
    Folder,

    /// <summary>Files that a person hands over.</summary>
    Files,

    /// <summary>The product's own ledger.</summary>
    Ledger,
}

/// <summary>What a channel's lines are.</summary>
public enum EventFormat
{
    /// <summary>Our own JSON Lines; lines of OCSF are recognised among them.</summary>
    Json,
    Csv,
    Syslog,
}

/// <summary>What a channel admits. Empty lists admit everything.</summary>
/// <param name="Reads">Whether events that only look are admitted.</param>
/// <param name="Writes">Whether events that change something are.</param>
public sealed record AdmissionRules(
    IReadOnlyList<string>? Categories = null,
    bool Reads = true,
    bool Writes = true,
    string? Include = null,
    string? Except = null
)
{
    private static readonly HashSet<string> Looks = ["file.read", "file.download", "mail.read", "sign-in", "sign-out"];

    /// <summary>Checks the conditions, and gives what decides.</summary>
    public Outcome<Func<ActivityEvent, bool>> Compile(NodaTime.LocalDate today)
    {
        var include = Condition(Include, "include", today);
        var except = Condition(Except, "except", today);
        if ((include.Refusal ?? except.Refusal) is { } mistake)
        {
            return mistake;
        }

        var categories = Categories is { Count: > 0 } ? Categories.ToHashSet(StringComparer.OrdinalIgnoreCase) : null;
        return (Func<ActivityEvent, bool>)(
            e =>
                (categories is null || (e.Category is { } category && categories.Contains(category)))
                && (Looks.Contains(e.Action ?? "") ? Reads : Writes)
                && EventMatcher.Matches(include.Value, e)
                && (Except is not { Length: > 0 } || !EventMatcher.Matches(except.Value, e))
        );
    }

    private static Outcome<Condition> Condition(string? query, string field, NodaTime.LocalDate today)
    {
        if (string.IsNullOrWhiteSpace(query))
        {
            return new Condition.Everything();
        }

        var compiled = QueryCompiler.Compile(query, today, EventColumn.Vocabulary);
        return compiled.Refusal is { } refusal ? refusal with { Field = field } : compiled.Value.Condition;
    }
}

using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Query;
using WideKeel.Store;

namespace WideKeel.Server.People;

/// <summary>
/// A name stands for one person for ever: entries of the ledger, certificates and approvals bear it, and nobody may pass for
/// another by taking theirs, not even years after they left.
/// </summary>
public static class PersonNames
{
    private const int MostCharacters = 200;

    /// <summary>Why somebody cannot bear a name, or null.</summary>
    /// <param name="person">Who would bear it; null for somebody who is being added.</param>
    public static async Task<Refusal?> CheckAsync(
        WriteSession session,
        long? person,
        string? name,
        CancellationToken cancel = default
    )
    {
        if (string.IsNullOrWhiteSpace(name) || name.Length > MostCharacters)
        {
            return new("name-missing", "name", $"A person needs a name of at most {MostCharacters} characters.");
        }

        if (name.Any(char.IsControl) || name.Any(c => char.GetUnicodeCategory(c) == UnicodeCategory.Format))
        {
            return new("name-unseen-characters", "name", "The name has characters in it that nobody sees.");
        }

        // Names that look alike to a reader are alike: case, accents, width, points and spaces make no other person.
        var folded = Words.Folded(name);
        if (
            folded is "nobody" or "set up"
            || name.TrimStart().StartsWith("job:", StringComparison.OrdinalIgnoreCase)
            || name.TrimStart().StartsWith("outside:", StringComparison.OrdinalIgnoreCase)
        )
        {
            return new("name-reserved", "name", "The ledger uses this name for what no person does.");
        }

        // The ledger knows every name that anybody ever bore.
        var id = person?.ToString(CultureInfo.InvariantCulture);
        var borne = await session
            .Db.Ledger.AsNoTracking()
            .Where(l =>
                (l.Verb == "person-added" || l.Verb == "person-changed")
                && l.SubjectKind == "person"
                && l.SubjectId != id
            )
            .Select(l => l.Body)
            .ToListAsync(cancel);
        return borne.Any(body =>
            (string?)JsonNode.Parse(body)!["after"]?["name"] is { } other && Words.Folded(other) == folded
        )
            ? Refusal.Conflict(
                "name-taken",
                "name",
                $"Somebody else bears the name {name.Trim()}, or bore it; a name stands for one person. Add a middle "
                    + "name, or the unit."
            )
            : null;
    }
}

using System.Globalization;
using System.Text.Json.Nodes;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>One type of resource that a program of a directory keeps here.</summary>
internal abstract class ScimKind
{
    /// <summary><c>User</c> or <c>Group</c>.</summary>
    public abstract string Name { get; }

    public string Endpoint => $"{Name}s";

    public abstract string Schema { get; }

    /// <summary>What PATCH may name; attributes of an extension after its URN.</summary>
    public abstract IReadOnlyList<string> Attributes { get; }

    /// <summary>Before the number of a row: ids of users and groups stand side by side among members.</summary>
    public abstract char Letter { get; }

    /// <summary>All of a source, oldest first.</summary>
    /// <param name="at">Address of the service.</param>
    public abstract Task<IReadOnlyList<JsonObject>> AllAsync(
        WideKeelDb db,
        long source,
        string at,
        CancellationToken cancel
    );

    /// <summary>Those of which an attribute is a text; null where the attribute has no index.</summary>
    public abstract Task<IReadOnlyList<JsonObject>?> EqualAsync(
        WideKeelDb db,
        long source,
        string at,
        (string Attribute, string Text) asked,
        CancellationToken cancel
    );

    public abstract Task<JsonObject?> OneAsync(
        WideKeelDb db,
        long source,
        string at,
        long id,
        CancellationToken cancel
    );

    /// <summary>Keeps a resource as it was sent, whole.</summary>
    /// <param name="id">The row; null where it is new.</param>
    public abstract Task<Outcome<long>> KeepAsync(
        WriteSession session,
        DirectorySource source,
        long? id,
        JsonObject resource,
        CancellationToken cancel
    );

    public abstract Task RemoveAsync(WriteSession session, DirectorySource source, long id, CancellationToken cancel);

    /// <summary>The row's number out of an id; null where it is none of this kind.</summary>
    public long? Number(string? id) =>
        id is { Length: > 1 }
        && id[0] == Letter
        && long.TryParse(id.AsSpan(1), NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            ? number
            : null;

    public string IdOf(long number) => string.Create(CultureInfo.InvariantCulture, $"{Letter}{number}");

    protected static void Note(
        WriteSession session,
        DirectorySource source,
        string verb,
        string subject,
        IEnumerable<string> says
    ) =>
        session.Record(
            verb,
            new LedgerSubject("account", subject),
            after: new JsonObject
            {
                ["source"] = source.Name,
                ["says"] = new JsonArray([.. says.Select(s => (JsonNode?)s)]),
            }
        );
}

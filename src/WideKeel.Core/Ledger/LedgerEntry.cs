using System.Globalization;
using System.Runtime.InteropServices;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.Ledger;

/// <summary>What a change was about. The unit, when there is one, decides who may read the entry.</summary>
public sealed record LedgerSubject(string Kind, string Id, string? Unit = null)
{
    /// <summary>Something that is known by a number.</summary>
    public static LedgerSubject Of(string kind, long id, string? unit = null) =>
        new(kind, id.ToString(CultureInfo.InvariantCulture), unit);
}

/// <summary>Who did something: a person's name or <c>job:scan</c>, for whom, and from which address.</summary>
/// <param name="Person">The person's number, where it is a person who signed in or whose key was used.</param>
public sealed record LedgerActor(string Who, string? OnBehalfOf = null, string? Address = null, long? Person = null)
{
    /// <summary>By what they acted where it was no session in a browser: the name of a key, or a link; else null.</summary>
    public string? Via { get; init; }

    public static LedgerActor Job(string kind, string? onBehalfOf) => new($"job:{kind}", onBehalfOf);

    /// <summary>Somebody outside the organisation, under the address that they gave: nobody has checked who they are.</summary>
    public static LedgerActor Outsider(string mail, string? address) => new($"outside:{mail}", null, address);
}

/// <summary>One entry of the ledger: a change made, or an attempt refused that matters.</summary>
public sealed record LedgerEntry(
    long Sequence,
    Instant At,
    LedgerActor Actor,
    string Verb,
    LedgerSubject Subject,
    JsonNode? Before = null,
    JsonNode? After = null,
    string? Reason = null
)
{
    /// <summary>
    /// The RFC 8785 form that is hashed and stored. Absent parts are left out, so that old entries keep their hash when
    /// a part is added.
    /// </summary>
    public string ToCanonicalText()
    {
        var subject = new JsonObject { ["kind"] = Subject.Kind, ["id"] = Subject.Id };
        if (Subject.Unit is not null)
        {
            subject["unit"] = Subject.Unit;
        }

        List<KeyValuePair<string, JsonNode?>> parts =
        [
            new("seq", Sequence),
            new("at", InstantPattern.ExtendedIso.Format(At)),
            new("who", Actor.Who),
            new("verb", Verb),
            new("subject", subject),
        ];
        Add("person", Actor.Person);
        Add("onBehalfOf", Actor.OnBehalfOf);
        Add("address", Actor.Address);
        Add("via", Actor.Via);
        Add("reason", Reason);
        Add("before", Before);
        Add("after", After);
        return CanonicalJson.Text(CollectionsMarshal.AsSpan(parts));

        void Add(string name, JsonNode? value)
        {
            if (value is not null)
            {
                parts.Add(new(name, value));
            }
        }
    }
}

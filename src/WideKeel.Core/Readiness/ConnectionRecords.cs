using NodaTime;

namespace WideKeel.Core.Readiness;

/// <param name="Key">Its name at the program, once in an answer.</param>
/// <param name="Person">Mail address of whom it is about, or who answers for it; empty for nobody.</param>
/// <param name="Sort">Course, kind of ticket (change, incident, other) or kind of machine.</param>
/// <param name="Facts">All that was sent of it, as JSON.</param>
public sealed record SentRecord(
    string Key,
    string Title,
    string Person,
    string Sort,
    string State,
    LocalDate? Opened,
    LocalDate? Due,
    LocalDate? Done,
    string Facts
);

/// <summary>
/// What programs outside answer: <c>{"records":[{"key","title","person","sort","state","opened","due","done",…}]}</c>,
/// with days as ISO 8601 writes them. Whatever else a record has is kept with it.
/// </summary>
public static class ConnectionRecords
{
    /// <summary>An answer with more records than this is refused.</summary>
    public const int Most = 100_000;

    private const int LongestKey = 200;

    /// <summary>Reads an answer; the first mistake is named with its place, and then nothing of it is taken.</summary>
    public static Outcome<IReadOnlyList<SentRecord>> Read(string json) => JsonPlace.Read(json, RecordsAt);

    private static IReadOnlyList<SentRecord> RecordsAt(JsonPlace root)
    {
        if (!root.Has("records"))
        {
            throw root.Wrong("records", "it is missing: a list of records is expected");
        }

        List<SentRecord> records = [];
        HashSet<string> keys = new(StringComparer.Ordinal);
        foreach (var at in root.Each("records"))
        {
            var key = at.Needed("key");
            if (key.Length > LongestKey)
            {
                throw at.Wrong("key", $"it has more than {LongestKey} characters");
            }

            if (!keys.Add(key))
            {
                throw at.Wrong("key", $"“{key}” is the key of another record already");
            }

            if (records.Count == Most)
            {
                throw at.Wrong("key", "an answer has at most 100,000 records");
            }

            records.Add(
                new(
                    key,
                    at.Text("title") is { Length: > 0 } title ? title : key,
                    (at.Text("person") ?? "").ToLowerInvariant(),
                    at.Text("sort") ?? "",
                    at.Text("state") ?? "",
                    at.DateOrNone("opened"),
                    at.DateOrNone("due"),
                    at.DateOrNone("done"),
                    at.Whole
                )
            );
        }

        return records;
    }

    /// <summary>Whether something is not done and its day is past.</summary>
    public static bool IsLate(LocalDate? due, LocalDate? done, LocalDate today) => done is null && due < today;

    /// <summary>Whether something that had a day was done by it, or still has time.</summary>
    public static bool InTime(LocalDate? due, LocalDate? done, LocalDate today) =>
        done is { } day ? due is null || day <= due : due is null || due >= today;
}

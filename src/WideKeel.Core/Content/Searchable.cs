namespace WideKeel.Core.Content;

/// <summary>How much of an item's content a search of words can find.</summary>
public enum Searchable
{
    /// <summary>All of its words; also where it has no content.</summary>
    Whole,

    /// <summary>Some: it is too large, or something within it could not be read.</summary>
    Part,

    /// <summary>It, or something within it, is protected with a password.</summary>
    Password,

    /// <summary>Pictures of pages without text, as a scanner makes them.</summary>
    Scan,

    /// <summary>None: no text is drawn from its type, or it is damaged.</summary>
    None,
}

public static class SearchableWords
{
    public static IReadOnlyList<string> All { get; } = [.. Enum.GetValues<Searchable>().Select(Word)];

    /// <summary>As it is stored and as queries name it: <c>password</c>.</summary>
    public static string Word(this Searchable searchable) => searchable.ToString().ToLowerInvariant();

    public static Searchable Of(string word) => Enum.Parse<Searchable>(word, ignoreCase: true);
}

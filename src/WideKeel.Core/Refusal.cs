namespace WideKeel.Core;

/// <summary>An expected refusal: something a person asked for that the rules do not allow. Not an exception.</summary>
/// <param name="Code">Stable machine word, e.g. <c>period-negative</c>; becomes the problem's <c>type</c>.</param>
/// <param name="Field">The input at fault as the caller named it, or null when it is the act as a whole.</param>
/// <param name="Sentence">One plain sentence that names place and cause.</param>
public sealed record Refusal(string Code, string? Field, string Sentence)
{
    /// <summary>What kind of refusal it is; most say that the input is wrong.</summary>
    public RefusalKind Kind { get; init; } = RefusalKind.Malformed;

    /// <summary>Which characters of a long input are at fault, where that can be told.</summary>
    public TextSpan? Span { get; init; }

    /// <summary>Nobody is signed in, or the sign-in failed.</summary>
    public static Refusal NotSignedIn(string code, string? field, string sentence) =>
        new(code, field, sentence) { Kind = RefusalKind.NotSignedIn };

    /// <summary>This person may not do it.</summary>
    public static Refusal Forbidden(string code, string? field, string sentence) =>
        new(code, field, sentence) { Kind = RefusalKind.Forbidden };

    /// <summary>There is no such thing, as far as this person may know.</summary>
    public static Refusal NotFound(string code, string? field, string sentence) =>
        new(code, field, sentence) { Kind = RefusalKind.NotFound };

    /// <summary>The input is right, but things do not stand so that it can be done.</summary>
    public static Refusal Conflict(string code, string? field, string sentence) =>
        new(code, field, sentence) { Kind = RefusalKind.Conflict };

    /// <summary>Somebody else changed it since it was read.</summary>
    public static Refusal Stale(string code, string? field, string sentence) =>
        new(code, field, sentence) { Kind = RefusalKind.Stale };

    /// <summary>The revision that was read is missing from the request.</summary>
    public static Refusal Precondition(string code, string? field, string sentence) =>
        new(code, field, sentence) { Kind = RefusalKind.Precondition };

    /// <summary>More was sent than is taken at once.</summary>
    public static Refusal TooLarge(string code, string? field, string sentence) =>
        new(code, field, sentence) { Kind = RefusalKind.TooLarge };

    /// <summary>It was tried too often.</summary>
    public static Refusal TooMany(string code, string? field, string sentence) =>
        new(code, field, sentence) { Kind = RefusalKind.TooMany };

    /// <summary>It cannot be done now, whoever asks.</summary>
    public static Refusal OutOfService(string code, string? field, string sentence) =>
        new(code, field, sentence) { Kind = RefusalKind.OutOfService };
}

/// <summary>Kinds of refusals, as a caller must tell them apart to know what to do next.</summary>
public enum RefusalKind
{
    /// <summary>The input is wrong and stays wrong until it is changed.</summary>
    Malformed,
    NotSignedIn,
    Forbidden,
    NotFound,
    Conflict,
    Stale,
    Precondition,
    TooLarge,
    TooMany,

    /// <summary>It waits for a second person; nothing is wrong.</summary>
    Asked,

    /// <summary>The product cannot do it now, whoever asks.</summary>
    OutOfService,
}

/// <summary>
/// Some characters of a text, in UTF-16 units from 0. A length of 0 means the place before <paramref name="Start"/>.
/// </summary>
public readonly record struct TextSpan(int Start, int Length)
{
    public int End => Start + Length;
}

/// <summary>A value, or the refusal that took its place.</summary>
public readonly struct Outcome<T>
{
    private readonly T? value;

    private Outcome(T? value, Refusal? refusal) => (this.value, Refusal) = (value, refusal);

    public Refusal? Refusal { get; }

    /// <summary>
    /// The value; throws <see cref="InvalidOperationException"/> when refused, because asking then is a bug.
    /// </summary>
    public T Value => Refusal is null ? value! : throw new InvalidOperationException(Refusal.Sentence);

    public bool Refused => Refusal is not null;

    public static implicit operator Outcome<T>(T value) => new(value, null);

    public static implicit operator Outcome<T>(Refusal refusal) => new(default, refusal);
}

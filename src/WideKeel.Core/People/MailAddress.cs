using System.Text.RegularExpressions;

namespace WideKeel.Core.People;

/// <summary>The shape of a mail address, wherever one is asked for.</summary>
public static partial class MailAddress
{
    /// <summary>RFC 5321 §4.5.3.1.3: a path has at most 256 octets, its brackets included.</summary>
    private const int Most = 254;

    /// <summary>Whether the text is one bare address with a domain. Nobody is looked for behind it.</summary>
    public static bool IsOne(string text) => text.Length <= Most && Shape().IsMatch(text);

    [GeneratedRegex(@"\A[^@\s,;]+@[^@\s,;]+\z")]
    private static partial Regex Shape();
}

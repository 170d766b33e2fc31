namespace WideKeel.Core.People;

/// <summary>
/// Passwords that attackers try first (NIST SP 800-63B, 5.1.1.2: compare with commonly used ones and with words of
/// the context, such as the name of the user).
/// </summary>
public static class WeakPassword
{
    /// <summary>So many characters must be left when the parts of one's own address are taken out.</summary>
    private const int LeastOwn = 8;

    /// <summary>A part of an address that is shorter may stand in any word.</summary>
    private const int ShortestPart = 3;

    /// <summary>Why a password is refused, as a sentence; null where it may be chosen.</summary>
    /// <param name="mail">The address of the person who chooses it.</param>
    /// <param name="common">The most used passwords, in lower case.</param>
    public static string? Why(string password, string? mail, IReadOnlySet<string> common)
    {
        var lower = password.ToLowerInvariant();
        return IsCommon(lower, common) ? "This password is among those that are guessed first. Choose another one."
            : mail is not null && IsAddress(lower, mail.ToLowerInvariant())
                ? "This password is little more than your own email address. Choose another one."
            : null;
    }

    /// <summary>A listed one, also with digits and signs around it, or written several times.</summary>
    private static bool IsCommon(string password, IReadOnlySet<string> common)
    {
        var word = password.Trim([.. password.Where(c => !char.IsLetter(c)).Distinct()]);
        return common.Contains(password)
            || word.Length == 0
            || common.Contains(word)
            || Enumerable
                .Range(1, password.Length / 2)
                .Any(n =>
                    password.Length % n == 0
                    && (n < LeastOwn || common.Contains(password[..n]))
                    && password == string.Concat(Enumerable.Repeat(password[..n], password.Length / n))
                );
    }

    private static bool IsAddress(string password, string mail) =>
        password.Contains(mail, StringComparison.Ordinal)
        || mail.Split('@', '.', '-', '_', '+')
            .Where(p => p.Length >= ShortestPart)
            .OrderByDescending(p => p.Length)
            .Aggregate(password, (left, part) => left.Replace(part, "", StringComparison.Ordinal))
            .Length < LeastOwn;
}

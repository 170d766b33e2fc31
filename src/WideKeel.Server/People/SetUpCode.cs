using System.Security.Cryptography;

namespace WideKeel.Server.People;

/// <summary>
/// Whoever sets the product up becomes its administrator, so they must be the one who reads its console: another who finds
/// the address first does not know the code. It is made anew at each start.
/// </summary>
public sealed class SetUpCode
{
    /// <summary>Without the letters and digits that are taken for one another.</summary>
    private const string Alphabet = "ABCDEFGHJKMNPQRSTUVWXYZ23456789";

    private const int Length = 10;

    public string Word { get; } = RandomNumberGenerator.GetString(Alphabet, Length);

    /// <summary>Whether somebody typed it, in whatever case and with whatever spaces. Takes as long for each wrong one.</summary>
    public bool Is(string? typed) =>
        CryptographicOperations.FixedTimeEquals(
            System.Text.Encoding.UTF8.GetBytes(Word),
            System.Text.Encoding.UTF8.GetBytes(
                string.Concat((typed ?? "").Where(c => !char.IsWhiteSpace(c))).ToUpperInvariant()
            )
        );
}

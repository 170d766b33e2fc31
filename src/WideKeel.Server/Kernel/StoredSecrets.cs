using Microsoft.AspNetCore.DataProtection;

namespace WideKeel.Server.Kernel;

/// <summary>
/// Keys that the product shares with other systems, as they lie in the database: encrypted by keys that are themselves
/// encrypted by the key at rest, which lies outside the data.
/// </summary>
public sealed class StoredSecrets(IDataProtectionProvider protection)
{
    private readonly IDataProtector protector = protection.CreateProtector("secrets of other systems");

    public string Protect(string secret) => protector.Protect(secret);

    /// <exception cref="System.Security.Cryptography.CryptographicException">The key of this server is another one.</exception>
    public string Read(string kept) => protector.Unprotect(kept);
}

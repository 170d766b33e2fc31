using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Microsoft.AspNetCore.DataProtection;
using WideKeel.Sources;

namespace WideKeel.Server.Kernel;

/// <summary>
/// The key that encrypts the keys of cookies and with them the mail server's password. It lies away from the data folder, so
/// that a copy of that folder, or a backup of it, makes no cookie.
/// </summary>
public static class KeyAtRest
{
    public const string FileName = "key-at-rest.pfx";

    /// <summary>
    /// Opens the key of a folder, and makes it where there is none. Throws <see cref="NotOursException"/> where the folder
    /// cannot be used.
    /// </summary>
    public static X509Certificate2 Open(string folder)
    {
        var file = Path.Combine(folder, FileName);
        try
        {
            if (!File.Exists(file))
            {
                Make(file);
            }

            return X509CertificateLoader.LoadPkcs12FromFile(file, null);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or CryptographicException)
        {
            throw new NotOursException(
                $"The key {file} can be neither opened nor made: {e.Message} Name another folder with --secrets."
            );
        }
    }

    /// <summary>What these keys are encrypted with from now on, and read with.</summary>
    public static IDataProtectionBuilder ProtectedBy(this IDataProtectionBuilder keys, X509Certificate2 key) =>
        keys.ProtectKeysWithCertificate(key).UnprotectKeysWithAnyCertificate(key);

    /// <summary>Two processes that begin at once end up with one key: the file comes to its name whole, or not at all.</summary>
    private static void Make(string file)
    {
        using var pair = RSA.Create(3072);
        var request = new CertificateRequest(
            "CN=Wide Keel key at rest",
            pair,
            HashAlgorithmName.SHA256,
            RSASignaturePadding.Pkcs1
        );
        // It proves nothing to anybody, so it has no end.
        using var key = request.CreateSelfSigned(DateTimeOffset.UnixEpoch, DateTimeOffset.MaxValue);
        try
        {
            PrivateFile.Write(file, key.Export(X509ContentType.Pkcs12), overwrite: false);
        }
        catch (IOException) when (File.Exists(file))
        {
            // The other was first.
        }
    }
}

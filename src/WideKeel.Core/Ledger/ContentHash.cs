using System.Security.Cryptography;
using System.Text;

namespace WideKeel.Core.Ledger;

/// <summary>SHA-256 as proofs, reports and keys name it.</summary>
public static class ContentHash
{
    /// <summary>SHA-256 of a text in UTF-8, in lower-case hex: 64 characters.</summary>
    public static string Of(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)));
}

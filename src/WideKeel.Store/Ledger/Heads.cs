using System.Security.Cryptography;
using System.Text;
using NodaTime;
using WideKeel.Core.Ledger;

namespace WideKeel.Store.Ledger;

/// <summary>
/// The signed heads beside the database: <c>heads.jsonl</c>, one line a checkpoint, and the key pair that signs them. A
/// database that was swapped or rolled back does not match the last line.
/// </summary>
public sealed class Heads : IDisposable
{
    public const string FileName = "heads.jsonl";
    private const string PrivateKeyFile = "ledger-key.pem";
    private const string PublicKeyFile = "ledger-public.pem";

    private readonly string folder;
    private readonly ECDsa key;

    private Heads(string folder, ECDsa key) => (this.folder, this.key) = (folder, key);

    /// <summary>
    /// Opens the heads of a data folder for signing; makes the key pair the first time, and never where entries exist:
    /// a new key would sign whatever the ledger holds by then.
    /// </summary>
    /// <param name="hasEntries">The ledger has entries already.</param>
    /// <exception cref="LedgerKeyException">There are entries and no key.</exception>
    public static Heads Open(string folder, bool hasEntries)
    {
        Directory.CreateDirectory(folder);
        var privateFile = Path.Combine(folder, PrivateKeyFile);
        var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        if (File.Exists(privateFile))
        {
            key.ImportFromPem(File.ReadAllText(privateFile));
            using var other = ReadPublicKey(folder);
            if (
                other is not null
                && !other.ExportSubjectPublicKeyInfo().AsSpan().SequenceEqual(key.ExportSubjectPublicKeyInfo())
            )
            {
                key.Dispose();
                throw new LedgerKeyException(
                    $"{privateFile} is not the key whose public half lies beside it: one of them was replaced. Put the "
                        + "right file back from a backup. Nothing was signed."
                );
            }
        }
        else if (hasEntries)
        {
            key.Dispose();
            throw new LedgerKeyException(
                $"The ledger has entries, and its key {privateFile} is missing. Put it back from a backup; a new "
                    + "key is never made over entries."
            );
        }
        else
        {
            using (
                var file = new FileStream(
                    privateFile,
                    new FileStreamOptions
                    {
                        Mode = FileMode.CreateNew,
                        Access = FileAccess.Write,
                        UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
                    }
                )
            )
            {
                file.Write(Encoding.ASCII.GetBytes(key.ExportPkcs8PrivateKeyPem()));
                file.Flush(flushToDisk: true);
            }

            File.WriteAllText(Path.Combine(folder, PublicKeyFile), key.ExportSubjectPublicKeyInfoPem());
        }

        return new(folder, key);
    }

    /// <summary>Told of each head that was appended: for the second place.</summary>
    public event Action<string>? Appended;

    /// <summary>What entry 1 says of the key.</summary>
    public System.Text.Json.Nodes.JsonObject Beginning => LedgerBeginning.After(key);

    /// <summary>The public key as PEM, for exports.</summary>
    public string PublicKeyPem => key.ExportSubjectPublicKeyInfoPem();

    public TreeHead Sign(long size, byte[] root, Instant at) => TreeHead.Sign(size, root, at, key);

    /// <summary>Signs and appends a head; on disk when this returns.</summary>
    public void Append(long size, byte[] root, Instant at)
    {
        var text = Sign(size, root, at).ToLine();
        var line = Encoding.UTF8.GetBytes(text + "\n");
        using var file = new FileStream(
            Path.Combine(folder, FileName),
            FileMode.OpenOrCreate,
            FileAccess.ReadWrite,
            FileShare.Read
        );
        // A stop in the middle of the last append leaves half a line; it is cut, never written on.
        file.Seek(WholeLinesLength(file), SeekOrigin.Begin);
        file.SetLength(file.Position);
        file.Write(line);
        file.Flush(flushToDisk: true);
        Appended?.Invoke(text);
    }

    public static IReadOnlyList<string> ReadLines(string folder)
    {
        var file = Path.Combine(folder, FileName);
        return File.Exists(file) ? File.ReadAllLines(file) : [];
    }

    /// <summary>The public key, or null when its file is not there or is not a key.</summary>
    public static ECDsa? ReadPublicKey(string folder)
    {
        var file = Path.Combine(folder, PublicKeyFile);
        if (!File.Exists(file))
        {
            return null;
        }

        var key = ECDsa.Create();
        try
        {
            key.ImportFromPem(File.ReadAllText(file));
            return key;
        }
        catch (Exception e) when (e is ArgumentException or CryptographicException)
        {
            key.Dispose();
            return null;
        }
    }

    public void Dispose() => key.Dispose();

    private static long WholeLinesLength(FileStream file)
    {
        Span<byte> last = stackalloc byte[1];
        for (var end = file.Length; end > 0; end--)
        {
            file.Seek(end - 1, SeekOrigin.Begin);
            file.ReadExactly(last);
            if (last[0] == (byte)'\n')
            {
                return end;
            }
        }

        return 0;
    }
}

/// <summary>The key of a ledger that has entries is not there.</summary>
public sealed class LedgerKeyException(string message) : Exception(message);

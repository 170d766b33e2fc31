using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.AtRest;

/// <summary>A key that encrypts contents.</summary>
/// <param name="Bytes">32 bytes.</param>
public sealed record RestKey(Guid Id, Instant MadeAt, ReadOnlyMemory<byte> Bytes);

/// <summary>
/// The keys that contents at rest are encrypted with: the newest encrypts, all decrypt. On disk each is wrapped by a master key
/// (RFC 5649, AES key wrap with padding), which lies elsewhere. A rotation makes a new key and wraps all of them by a new
/// master key; no content is written anew for it.
/// </summary>
public sealed class RestKeys
{
    /// <summary>Bytes of a master key.</summary>
    public const int MasterBytes = 32;

    private const int IdBytes = 16;
    private static readonly byte[] Mark = "WKE1"u8.ToArray();
    private readonly RestKey[] keys;

    private RestKeys(Guid master, RestKey[] keys) => (Master, this.keys) = (master, keys);

    /// <summary>The master key that wraps these.</summary>
    public Guid Master { get; }

    /// <summary>From the oldest to the newest.</summary>
    public IReadOnlyList<RestKey> All => keys;

    public RestKey Newest => keys[^1];

    public static RestKeys Begin(Guid master, Instant now) => new(master, [Make(now)]);

    /// <summary>The same keys and a new one, for another master key.</summary>
    public RestKeys Rotated(Guid master, Instant now) => new(master, [.. keys, Make(now)]);

    /// <summary>Which master key opens these; null where the text holds no keys.</summary>
    public static Guid? MasterOf(string json)
    {
        try
        {
            return Guid.Parse((string)JsonNode.Parse(json)!["master"]!);
        }
        catch (Exception e) when (IsMalformed(e))
        {
            return null;
        }
    }

    /// <summary>Unwraps the keys.</summary>
    public static Outcome<RestKeys> Read(string json, ReadOnlySpan<byte> master)
    {
        try
        {
            using var aes = Aes.Create();
            aes.SetKey(master);
            var root = JsonNode.Parse(json)!;
            RestKey[] read =
            [
                .. root["keys"]!
                    .AsArray()
                    .Select(k => new RestKey(
                        Guid.Parse((string)k!["id"]!),
                        InstantPattern.ExtendedIso.Parse((string)k["madeAt"]!).Value,
                        aes.DecryptKeyWrapPadded(Convert.FromBase64String((string)k["wrapped"]!))
                    )),
            ];
            return read.Length > 0 && read.All(k => k.Bytes.Length == SegmentedCipher.KeyBytes)
                ? new RestKeys(Guid.Parse((string)root["master"]!), read)
                : Malformed("It holds no key, or one of another length than 32 bytes.");
        }
        catch (CryptographicException)
        {
            return new Refusal("keys-not-opened", null, "The master key does not open the keys: it is another one.");
        }
        catch (Exception e) when (IsMalformed(e))
        {
            return Malformed(e.Message);
        }
    }

    /// <summary>The keys wrapped by their master key, as JSON.</summary>
    public string ToJson(ReadOnlySpan<byte> master)
    {
        using var aes = Aes.Create();
        aes.SetKey(master);
        JsonArray wrapped = [];
        foreach (var key in keys)
        {
            wrapped.Add(
                new JsonObject
                {
                    ["id"] = key.Id.ToString(),
                    ["madeAt"] = InstantPattern.ExtendedIso.Format(key.MadeAt),
                    ["wrapped"] = Convert.ToBase64String(aes.EncryptKeyWrapPadded(key.Bytes.Span)),
                }
            );
        }

        return new JsonObject { ["master"] = Master.ToString(), ["keys"] = wrapped }.ToJsonString(
            new() { WriteIndented = true }
        );
    }

    /// <summary>Encrypts a content with the newest key, and says so at its beginning.</summary>
    /// <param name="name">See <see cref="SegmentedCipher.EncryptAsync"/>.</param>
    public async Task EncryptAsync(string name, Stream plain, Stream cipher, CancellationToken cancel)
    {
        await cipher.WriteAsync(Mark, cancel);
        await cipher.WriteAsync(Newest.Id.ToByteArray(bigEndian: true), cancel);
        await SegmentedCipher.EncryptAsync(Newest.Bytes, name, plain, cipher, cancel);
    }

    /// <summary>Decrypts a content by the key that its beginning names; the stream is closed with the answer.</summary>
    /// <exception cref="UnreadableAtRestException">
    /// Its key is not among these, or what <see cref="SegmentedCipher.Decrypt"/> throws.
    /// </exception>
    public Stream Decrypt(string name, Stream cipher)
    {
        Span<byte> beginning = stackalloc byte[Mark.Length + IdBytes];
        try
        {
            if (
                cipher.ReadAtLeast(beginning, beginning.Length, throwOnEndOfStream: false) < beginning.Length
                || !beginning[..Mark.Length].SequenceEqual(Mark)
            )
            {
                throw new UnreadableAtRestException("This is no encrypted content, or its beginning is lost.");
            }

            var id = new Guid(beginning[Mark.Length..], bigEndian: true);
            var key =
                Array.Find(keys, k => k.Id == id)
                ?? throw new UnreadableAtRestException($"Its key {id} is not among the {keys.Length} that are there.");
            return SegmentedCipher.Decrypt(key.Bytes, name, cipher);
        }
        catch (UnreadableAtRestException)
        {
            cipher.Dispose();
            throw;
        }
    }

    private static RestKey Make(Instant now) =>
        new(Guid.NewGuid(), now, RandomNumberGenerator.GetBytes(SegmentedCipher.KeyBytes));

    private static Refusal Malformed(string why) =>
        new("keys-malformed", null, $"The file of keys cannot be read: {why}");

    private static bool IsMalformed(Exception e) =>
        e
            is JsonException
                or FormatException
                or InvalidOperationException
                or NullReferenceException
                or ArgumentException
                or UnparsableValueException;
}

/// <summary>The keys of this instance, which a rotation changes while others read; null while nothing is encrypted.</summary>
public sealed class RestKeyring
{
    private volatile RestKeys? keys;

    public RestKeys? Keys
    {
        get => keys;
        set => keys = value;
    }
}

using System.Security.Cryptography;
using System.Text;
using NodaTime;
using WideKeel.Core.AtRest;
using WideKeel.Sources;

namespace WideKeel.Server.Kernel;

/// <summary>
/// The keys of the archive and of safekeeping on disk: wrapped in the data folder, so that a backup of it is complete, and the
/// master key that opens them in the folder of secrets, so that a backup alone opens nothing.
/// </summary>
public sealed class RestKeyFiles(string dataFolder, string secretsFolder, RestKeyring keyring)
{
    private string KeysFile => Path.Combine(dataFolder, "keys-at-rest.json");

    /// <summary>Where keys lie in a data folder.</summary>
    public static RestKeyFiles In(WideKeelOptions options, RestKeyring keyring) =>
        new(options.DataFolder, options.SecretsFolder, keyring);

    /// <summary>Opens the keys, where there are any.</summary>
    /// <exception cref="NotOursException">They cannot be opened: nothing that is encrypted could be read.</exception>
    public void Open()
    {
        if (!File.Exists(KeysFile))
        {
            return;
        }

        var json = File.ReadAllText(KeysFile);
        if (RestKeys.MasterOf(json) is not { } master)
        {
            throw new NotOursException($"The file of keys {KeysFile} is damaged. Put it back from a backup.");
        }

        var file = MasterFile(master);
        byte[] bytes;
        try
        {
            bytes = Convert.FromBase64String(File.ReadAllText(file));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or FormatException)
        {
            throw new NotOursException(
                $"The archive and safekeeping are encrypted, and their master key {file} cannot be read: {e.Message} "
                    + "Put it back, or name the folder that holds it with --secrets."
            );
        }

        var keys = RestKeys.Read(json, bytes);
        keyring.Keys = keys.Refusal is { } refusal
            ? throw new NotOursException($"{KeysFile}: {refusal.Sentence}")
            : keys.Value;
    }

    /// <summary>
    /// Makes the first key, or a further one, under a new master key. The old master key goes only when the keys lie wrapped
    /// by the new one: at every moment there is a master key that opens what lies there.
    /// </summary>
    public RestKeys Rotate(Instant now)
    {
        var former = keyring.Keys;
        var master = Guid.NewGuid();
        var bytes = RandomNumberGenerator.GetBytes(RestKeys.MasterBytes);
        var keys = former?.Rotated(master, now) ?? RestKeys.Begin(master, now);
        PrivateFile.Write(MasterFile(master), Encoding.ASCII.GetBytes(Convert.ToBase64String(bytes)), overwrite: false);
        PrivateFile.Write(KeysFile, Encoding.UTF8.GetBytes(keys.ToJson(bytes)), overwrite: true);
        keyring.Keys = keys;
        if (former is not null)
        {
            File.Delete(MasterFile(former.Master));
        }

        return keys;
    }

    private string MasterFile(Guid master) => Path.Combine(secretsFolder, $"master-{master}.key");
}

using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>The sealed files, as something to encrypt. Sealing waits in the same lane, so none is written or removed meanwhile.</summary>
internal sealed class ArchiveAtRest(ArchiveFiles archive) : IEncryptable
{
    public string Name => "Archive";

    public (long InTheOpen, long Encrypted) Count()
    {
        var all = archive.All().ToList();
        var encrypted = all.Count(f => f.IsEncrypted);
        return (all.Count - encrypted, encrypted);
    }

    public async Task EncryptAsync(Func<Task> done, CancellationToken cancel)
    {
        foreach (var (path, _) in archive.All().Where(f => !f.IsEncrypted).ToList())
        {
            await archive.EncryptAsync(path, cancel);
            await done();
        }
    }
}

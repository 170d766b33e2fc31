using WideKeel.Sources;

namespace WideKeel.Server.Content;

/// <summary>The copies in safekeeping, as something to encrypt.</summary>
internal sealed class CopiesAtRest(Safekeeping safekeeping, SafekeepingGate gate) : IEncryptable
{
    public string Name => "Safekeeping";

    public (long InTheOpen, long Encrypted) Count() =>
        safekeeping
            .All()
            .Aggregate(
                (0L, 0L),
                (sum, copy) => copy.IsEncrypted ? (sum.Item1, sum.Item2 + 1) : (sum.Item1 + 1, sum.Item2)
            );

    public async Task EncryptAsync(Func<Task> done, CancellationToken cancel)
    {
        foreach (var (hash, _) in safekeeping.All().Where(c => !c.IsEncrypted).ToList())
        {
            await gate.RunAsync(
                async () =>
                {
                    await safekeeping.EncryptAsync(hash, cancel);
                    return true;
                },
                cancel
            );
            await done();
        }
    }
}

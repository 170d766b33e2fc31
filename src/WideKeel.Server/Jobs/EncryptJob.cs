using System.Globalization;

namespace WideKeel.Server.Jobs;

/// <summary>Encrypts what lay in the open before there were keys.</summary>
public sealed class EncryptJob(IEnumerable<IEncryptable> all) : IJob
{
    public static readonly JobKind JobKind = new(
        "encrypt",
        Lane: "activity",
        RunsToItsEnd: true,
        MayQueueBehindItself: true,
        Changes: "encryption"
    );

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        var (done, total) = (0L, all.Sum(e => e.Count().InTheOpen));
        foreach (var contents in all)
        {
            await contents.EncryptAsync(() => run.ReportAsync(++done, total, null, cancel), cancel);
        }

        return string.Create(CultureInfo.InvariantCulture, $"{done:N0} files encrypted.");
    }
}

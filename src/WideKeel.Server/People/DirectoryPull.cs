namespace WideKeel.Server.People;

/// <summary>
/// Reads the directory outside as soon as it has changed, and asks it for what a stop left without an outcome.
/// </summary>
internal sealed class DirectoryPull(
    OrganisationDirectory directory,
    DirectoryCarrier carrier,
    WideKeel.Store.Writer writer,
    Troubles troubles,
    ILogger<DirectoryPull> log
) : BackgroundService
{
    private const string TroubleKey = "directory";
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(5);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause);
        do
        {
            try
            {
                await carrier.CarryAsync();
                await directory.PullAsync(writer, stoppingToken);
                troubles.Clear(TroubleKey);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The directory could not be read");
                troubles.Report(TroubleKey, "The directory is not read", e.Message, "/set-up/directory");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }
}

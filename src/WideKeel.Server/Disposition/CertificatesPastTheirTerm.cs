namespace WideKeel.Server.Disposition;

/// <summary>Lets go, day by day, of the lists of certificates that are older than certificates are kept.</summary>
internal sealed class CertificatesPastTheirTerm : IDailyTask
{
    public Task RunAsync(DailyQuestion asked) =>
        CertificateEndpoints.LetGoAsync(
            asked.Session,
            asked.Today,
            asked.Organisation.CertificateYears,
            asked.Calendar,
            asked.Cancel
        );
}

using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Runtime.InteropServices;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.AtRest;
using WideKeel.Core.Ledger;
using WideKeel.Core.Readiness;
using WideKeel.Demo;
using WideKeel.Server;
using WideKeel.Server.Activity;
using WideKeel.Server.CommandLine;
using WideKeel.Server.Demo;
using WideKeel.Server.Ledger;
using WideKeel.Server.People;
using WideKeel.Server.Readiness;
using WideKeel.Sources;
using WideKeel.Store.Activity;
using WideKeel.Store.Ledger;

const string usage = $"""
    widekeel serve  [--data FOLDER] [--secrets FOLDER] [--roots FOLDER]… [--urls URLS] [--syslog ADDRESS]
                    [--heads-to PLACE] [--scanner icap://HOST:PORT/SERVICE]
                    [--behind-proxy CIDR]… [--as-of DATE]
    widekeel demo   [--data FOLDER] [--secrets FOLDER] [--urls URLS] [--as-of DATE] [--seed N] [--scale N] [--fresh]
                    [--make-only]
    widekeel verify [--data FOLDER] [--secrets FOLDER] [--against COPY] [--all] | [--segments FOLDER] --ledger EXPORT.json
    widekeel open-archive FOLDER --segments ARCHIVE [--data FOLDER] [--secrets FOLDER]
    widekeel openapi FILE
    widekeel stand-in FILE --key KEY [--urls URLS]
    {PipelineVerbs.Usage}
    """;

if (args is [DocumentReaders.Verb, var seconds])
{
    await DocumentReaders.ServeAsync(
        Console.OpenStandardInput(),
        Console.OpenStandardOutput(),
        TimeSpan.FromSeconds(double.Parse(seconds, CultureInfo.InvariantCulture))
    );
    return 0;
}

if (args is [StatementWorker.Verb])
{
    await StatementWorker.ServeAsync(Console.OpenStandardInput(), Console.OpenStandardOutput());
    return 0;
}

if (args is [var verb, ..] && PipelineVerbs.Knows(verb))
{
    return await new PipelineVerbs(Console.In, Console.Out, Console.Error).RunAsync(args);
}

var arguments = Arguments.Parse(args);
if (arguments is null)
{
    Console.Error.WriteLine(usage);
    return 2;
}

try
{
    switch (arguments.Verb)
    {
        case "serve":
            return await ServeAsync(Options([]));
        case "demo":
            return await DemoAsync();
        case "verify":
            return arguments switch
            {
                { Segments: { } folder, Ledger: { } export } => VerifySegments(folder, export),
                { Segments: not null } => Usage(),
                { Ledger: { } export } => VerifyExport(export),
                _ => await VerifyAsync(),
            };
        case "open-archive" when arguments is { Operand: { } into, Segments: { } folder }:
            return OpenArchive(folder, into);
        case "stand-in" when arguments is { Operand: { } records, Key: { } key }:
            return await StandInAsync(records, key);
        case "openapi" when arguments.Operand is { } file:
            return await WriteDescriptionAsync(file);
        default:
            return Usage();
    }
}
catch (NotOursException e)
{
    Console.Error.WriteLine(e.Message);
    return 1;
}

WideKeelOptions Options(IReadOnlyList<DemoAccount> accounts) =>
    new()
    {
        DataFolder = Path.GetFullPath(arguments.Data ?? "data"),
        Urls = arguments.Urls ?? "http://127.0.0.1:5000",
        Clock = arguments.AsOf is { } asOf
            ? new ShiftedClock(StartOf(asOf), SystemClock.Instance)
            : SystemClock.Instance,
        DemoAccounts = accounts,
        SyslogAddress = arguments.Syslog ?? IPAddress.Loopback,
        Scanner = arguments.Scanner,
        MailSink = accounts.Count > 0,
        HeadsTo = arguments.HeadsTo,
        SecretsFolder = SecretsFolder(),
        Roots = [.. arguments.Roots.Select(Path.GetFullPath)],
        Proxies = arguments.Proxies,
    };

// A second start on the same day goes on where the first one ended: its clock does not go back.
Instant StartOf(Instant asOf)
{
    var file = Path.Combine(Path.GetFullPath(arguments.Data ?? "data"), "widekeel.db");
    return LedgerReader.LatestTimeIn(file) is { } latest && latest > asOf && latest < asOf + Duration.FromDays(1)
        ? latest
        : asOf;
}

string SecretsFolder() =>
    arguments.Secrets is { } named ? Path.GetFullPath(named)
    : Environment.GetFolderPath(Environment.SpecialFolder.LocalApplicationData) is { Length: > 0 } home
        ? Path.Combine(home, "wide-keel")
    : throw new NotOursException("This account has no home folder for the key at rest; name a folder with --secrets.");

async Task<int> ServeAsync(WideKeelOptions options)
{
    if (options.HeadsTo is { } to && SecondPlace.Check(to, options.DataFolder) is { } wrong)
    {
        Console.Error.WriteLine(wrong);
        return 2;
    }

    await using var app = WideKeelHost.Create(options);
    await app.StartAsync();
    Console.WriteLine($"Wide Keel is at {string.Join(", ", app.Urls)}");
    foreach (var account in options.DemoAccounts)
    {
        Console.WriteLine($"  {account.Role, -28} {account.Mail, -34} {account.Password}");
    }

    if (!await app.Services.GetRequiredService<OrganisationCalendar>().IsSetUpAsync())
    {
        Console.WriteLine(
            $"It is not set up yet. The code for that: {app.Services.GetRequiredService<SetUpCode>().Word}"
        );
    }

    await app.WaitForShutdownAsync();
    return 0;
}

async Task<int> DemoAsync()
{
    var options = Options(DemoSeed.Accounts);
    // Making takes minutes and hosts of its own. Asked to end, it ends at once: a demo that is half made is made anew.
    using (var ending = new EndAtOnce())
    {
        await DemoSeed.EnsureAsync(
            options,
            arguments.Seed ?? 1,
            arguments.Scale ?? 1,
            arguments.Fresh,
            Console.WriteLine
        );
    }

    return arguments.MakeOnly ? 0 : await ServeAsync(options);
}

// A program that connections can ask, for trying them and for the demo's machines, courses and tickets.
async Task<int> StandInAsync(string records, string key)
{
    if (!File.Exists(records) || key.Length < Signature.ShortestKey)
    {
        Console.Error.WriteLine(
            File.Exists(records)
                ? $"A key has at least {Signature.ShortestKey} characters."
                : $"There is no file {records}."
        );
        return 2;
    }

    await using var program = await StandInProgram.StartAsync(
        records,
        key,
        arguments.Urls ?? "http://127.0.0.1:5081",
        SystemClock.Instance
    );
    Console.WriteLine($"{Path.GetFileName(records)} is at {string.Join(", ", program.Urls)}");
    await program.WaitForShutdownAsync();
    return 0;
}

int Usage()
{
    Console.Error.WriteLine(usage);
    return 2;
}

int VerifySegments(string folder, string export)
{
    if (!Directory.Exists(folder) || !File.Exists(export))
    {
        Console.Error.WriteLine(
            Directory.Exists(folder) ? $"There is no file {export}." : $"There is no folder {folder}."
        );
        return 2;
    }

    var outcome = ReadArchive(folder, archive => SegmentVerifier.Verify(archive, File.ReadAllText(export)));
    if (outcome.Refusal is { } refusal)
    {
        Console.Error.WriteLine(refusal.Sentence);
        return refusal.Code.StartsWith("entry-", StringComparison.Ordinal) || refusal.Code == "head-not-signed" ? 1 : 2;
    }

    var report = outcome.Value;
    Console.WriteLine(
        report.Findings.Count == 0
            ? $"All is well: {report.Files} files with {report.Events} events lead to their roots in the ledger."
            : string.Join('\n', report.Findings)
    );
    return report.Findings.Count == 0 ? 0 : 1;
}

// Encrypted files need their keys: those of the data folder that --data names, opened by --secrets.
T ReadArchive<T>(string folder, Func<ArchiveFiles, T> read)
{
    var keyring = new RestKeyring();
    if (arguments.Data is { } data)
    {
        new RestKeyFiles(Path.GetFullPath(data), SecretsFolder(), keyring).Open();
    }

    var archive = new ArchiveFiles(folder, Directory.CreateTempSubdirectory("wide-keel-").FullName, keyring);
    try
    {
        return read(archive);
    }
    finally
    {
        Directory.Delete(archive.OpenFolder, recursive: true);
    }
}

int OpenArchive(string folder, string into)
{
    if (!Directory.Exists(folder) || Directory.Exists(into))
    {
        Console.Error.WriteLine(
            Directory.Exists(folder) ? $"The folder {into} is there already." : $"There is no folder {folder}."
        );
        return 2;
    }

    return ReadArchive(
        folder,
        archive =>
        {
            var files = archive.All().Select(f => f.Path).Distinct().ToList();
            try
            {
                files.ForEach(f => archive.CopyOpen(f, Path.Combine(into, f)));
            }
            catch (IOException e)
            {
                Console.Error.WriteLine(e.Message);
                return 1;
            }

            Console.WriteLine($"{files.Count} files of the archive lie in the open in {into}.");
            return 0;
        }
    );
}

async Task<int> VerifyAsync()
{
    var file = Options([]).DatabaseFile;
    if (!File.Exists(file))
    {
        Console.Error.WriteLine($"There is no database {file}; name its folder with --data.");
        return 2;
    }

    if (arguments.Against is { } missing && !File.Exists(missing))
    {
        Console.Error.WriteLine($"There is no file {missing}.");
        return 2;
    }

    var report = LedgerReader.Verify(file, arguments.Against is { } copy ? File.ReadAllLines(copy) : null);
    Console.WriteLine(
        report.Sound
            ? $"All is well: {report.Entries} entries match {report.Heads} signed heads. Root {Convert.ToHexStringLower(report.Root)}"
            : report.Finding
    );
    foreach (var remark in report.Remarks)
    {
        Console.WriteLine(remark);
    }

    if (!arguments.All)
    {
        Console.WriteLine(VerifyAll.NotLookedAt);
        return report.Sound ? 0 : 1;
    }

    var options = Options([]);
    var keyring = new RestKeyring();
    new RestKeyFiles(options.DataFolder, options.SecretsFolder, keyring).Open();
    var findings = await new VerifyAll(options, keyring, Console.Out).RunAsync(CancellationToken.None);
    return report.Sound && findings == 0 ? 0 : 1;
}

int VerifyExport(string file)
{
    if (!File.Exists(file))
    {
        Console.Error.WriteLine($"There is no file {file}.");
        return 2;
    }

    var outcome = LedgerExport.Verify(File.ReadAllText(file));
    if (outcome.Refusal is { } refusal)
    {
        Console.Error.WriteLine(refusal.Sentence);
        return refusal.Code.StartsWith("entry-", StringComparison.Ordinal) || refusal.Code == "head-not-signed" ? 1 : 2;
    }

    var (entries, withheld, size) = outcome.Value;
    Console.WriteLine(
        $"All is well: {entries} entries{(withheld == 0 ? "" : $", {withheld} of them by their hash only,")} "
            + $"lie in the signed tree of {size}."
    );
    return 0;
}

async Task<int> WriteDescriptionAsync(string file)
{
    var folder = Directory.CreateTempSubdirectory("widekeel-openapi-").FullName;
    try
    {
        await using var app = WideKeelHost.Create(
            new()
            {
                DataFolder = folder,
                SecretsFolder = folder,
                Urls = "http://127.0.0.1:0",
            }
        );
        await app.StartAsync();
        using var http = new HttpClient();
        await File.WriteAllTextAsync(file, await http.GetStringAsync(new Uri($"{app.Urls.First()}/openapi/v1.json")));
        await app.StopAsync();
        return 0;
    }
    finally
    {
        Directory.Delete(folder, recursive: true);
    }
}

/// <summary>Ends the process when the system asks for it, without waiting for anything: as a kill would.</summary>
internal sealed class EndAtOnce : IDisposable
{
    private readonly PosixSignalRegistration[] signals =
    [
        .. new[] { PosixSignal.SIGTERM, PosixSignal.SIGINT }.Select(s =>
            PosixSignalRegistration.Create(s, _ => Process.GetCurrentProcess().Kill())
        ),
    ];

    public void Dispose() => Array.ForEach(signals, s => s.Dispose());
}

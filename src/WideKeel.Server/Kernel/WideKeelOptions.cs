using System.Net;
using NodaTime;
using WideKeel.Sources;

namespace WideKeel.Server.Kernel;

/// <summary>What one running instance is told at its start.</summary>
public sealed record WideKeelOptions
{
    /// <summary>The folder of the database, the ledger's heads and keys, and safekeeping.</summary>
    public required string DataFolder { get; init; }

    /// <summary>
    /// The folder of the key that encrypts the keys of cookies, away from the data folder: whoever copies the data cannot
    /// sign in with it.
    /// </summary>
    public required string SecretsFolder { get; init; }

    /// <summary>Folders that roots of sources must lie in; empty for anywhere.</summary>
    public IReadOnlyList<string> Roots { get; init; } = [];

    public RootPlaces RootPlaces => new([DataFolder, SecretsFolder], Roots);

    public IClock Clock { get; init; } = SystemClock.Instance;

    /// <summary>
    /// What sessions in browsers and one-time codes are timed by: the wall clock, as it is for the browser that keeps the
    /// cookie and for the phone that shows the code, whatever day the product is told that it is.
    /// </summary>
    public TimeProvider WallClock { get; init; } = TimeProvider.System;

    /// <summary>Addresses to listen on; port 0 picks a free one.</summary>
    public string Urls { get; init; } = "http://127.0.0.1:5000";

    /// <summary>
    /// Networks of the proxies in front: what they say of the other side's address and scheme is believed. With any, the
    /// product is reached by TLS only.
    /// </summary>
    public IReadOnlyList<IPNetwork> Proxies { get; init; } = [];

    /// <summary>Whether browsers reach it by TLS alone, so that cookies and links can be bound to that.</summary>
    public bool IsSecure =>
        Proxies.Count > 0
        || Urls.Split(';', StringSplitOptions.RemoveEmptyEntries)
            .All(u => u.Trim().StartsWith("https://", StringComparison.OrdinalIgnoreCase));

    /// <summary>The name of a cookie; with the prefix a browser takes it over TLS from this very host only (RFC 6265bis).</summary>
    public string CookieName(string name) => IsSecure ? $"__Host-{name}" : name;

    public CookieSecurePolicy CookiePolicy => IsSecure ? CookieSecurePolicy.Always : CookieSecurePolicy.SameAsRequest;

    /// <summary>
    /// Sign-in attempts that one network address may make in a minute: a whole office can arrive behind one, so this only
    /// keeps the work of hashing within bounds. Guessing has limits of its own.
    /// </summary>
    public int SignInsAMinute { get; init; } = 300;

    /// <summary>Accounts shown on the sign-in page; only the demo has any.</summary>
    public IReadOnlyList<DemoAccount> DemoAccounts { get; init; } = [];

    /// <summary>Rounds of PBKDF2 that a password's hash takes; null for what the framework advises.</summary>
    public int? PasswordRounds { get; init; }

    /// <summary>How long what is asked on screen may read the database.</summary>
    public TimeSpan LongestSearch { get; init; } = TimeSpan.FromSeconds(20);

    public bool Quiet { get; init; }

    /// <summary>
    /// Whether an in-process mail server takes what is sent and shows it: in the demo and in tests, where no mail may
    /// leave.
    /// </summary>
    public bool MailSink { get; init; }

    /// <summary>Parts beyond those of the product itself.</summary>
    public IReadOnlyList<IPart> MoreParts { get; init; } = [];

    public string MailSinkFolder => Path.Combine(DataFolder, "mail-sink");

    public string DatabaseFile => Path.Combine(DataFolder, "widekeel.db");

    /// <summary>The sealed files of activity.</summary>
    public string ArchiveFolder => Path.Combine(DataFolder, "archive");

    /// <summary>Files that were given as evidence, each named by its SHA-256.</summary>
    public string EvidenceFolder => Path.Combine(DataFolder, "evidence");

    /// <summary>The directory that stands in for the organisation's own.</summary>
    public string DirectoryFile => Path.Combine(DataFolder, "directory.json");

    /// <summary>The address at which channels of syslog listen.</summary>
    public System.Net.IPAddress SyslogAddress { get; init; } = System.Net.IPAddress.Loopback;

    /// <summary>The content scanner that is asked about files that people give, as icap://HOST:PORT/SERVICE.</summary>
    public Uri? Scanner { get; init; }

    /// <summary>Where each signed head goes as well: a folder, <c>syslog://HOST:PORT</c> or a URL; null for nowhere.</summary>
    public string? HeadsTo { get; init; }

    public string SafekeepingFolder => Path.Combine(DataFolder, "safekeeping");
}

/// <summary>An account of the demo, with its password in the open.</summary>
public sealed record DemoAccount(string Name, string Mail, string Role, string Password);

/// <summary>
/// A clock that runs behind another until it is let catch up: a demo that is made in a minute has weeks behind it.
/// </summary>
public sealed class StoryClock(IClock real) : IClock
{
    /// <summary>How far it is behind.</summary>
    public Duration Behind { get; set; }

    public Instant GetCurrentInstant() => real.GetCurrentInstant() - Behind;
}

/// <summary>A clock that began on a chosen moment and runs on from there at the usual pace.</summary>
public sealed class ShiftedClock(Instant start, IClock real) : IClock
{
    private readonly Duration shift = start - real.GetCurrentInstant();

    public Instant GetCurrentInstant() => real.GetCurrentInstant() + shift;
}

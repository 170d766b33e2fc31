using System.Net;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Server.CommandLine;

/// <summary>What stands on the command line.</summary>
internal sealed record Arguments(
    string Verb,
    string? Operand,
    string? Data,
    string? Urls,
    Instant? AsOf,
    int? Seed,
    int? Scale,
    bool Fresh,
    string? Ledger = null,
    string? Segments = null,
    IPAddress? Syslog = null,
    string? HeadsTo = null,
    string? Against = null,
    string? Secrets = null,
    string? Key = null,
    Uri? Scanner = null
)
{
    /// <summary>Folders that roots of sources must lie in, one for each time that the option stands there.</summary>
    public IReadOnlyList<string> Roots { get; init; } = [];

    /// <summary>The demo is made and not served.</summary>
    public bool MakeOnly { get; init; }

    /// <summary>Everything beside the database is verified too.</summary>
    public bool All { get; init; }

    /// <summary>Networks of the proxies in front, one for each time that the option stands there.</summary>
    public IReadOnlyList<IPNetwork> Proxies { get; init; } = [];

    /// <summary>Null when something is unknown or lacks its value.</summary>
    // Long because each option is one arm.
    public static Arguments? Parse(string[] args)
    {
        if (args.Length == 0)
        {
            return null;
        }

        var parsed = new Arguments(args[0], null, null, null, null, null, null, false);
        for (var i = 1; i < args.Length; i++)
        {
            var value = i + 1 < args.Length ? args[i + 1] : null;
            switch (args[i])
            {
                case "--fresh":
                    parsed = parsed with { Fresh = true };
                    continue;
                case "--make-only":
                    parsed = parsed with { MakeOnly = true };
                    continue;
                case "--all":
                    parsed = parsed with { All = true };
                    continue;
                case "--behind-proxy" when value is not null && IPNetwork.TryParse(value, out var proxy):
                    parsed = parsed with { Proxies = [.. parsed.Proxies, proxy] };
                    break;
                case "--data" when value is not null:
                    parsed = parsed with { Data = value };
                    break;
                case "--ledger" when value is not null:
                    parsed = parsed with { Ledger = value };
                    break;
                case "--urls" when value is not null:
                    parsed = parsed with { Urls = value };
                    break;
                case "--syslog" when IPAddress.TryParse(value, out var syslog):
                    parsed = parsed with { Syslog = syslog };
                    break;
                case "--heads-to" when value is not null:
                    parsed = parsed with { HeadsTo = value };
                    break;
                case "--scanner"
                    when Uri.TryCreate(value, UriKind.Absolute, out var scanner) && scanner.Scheme == "icap":
                    parsed = parsed with { Scanner = scanner };
                    break;
                case "--key" when value is not null:
                    parsed = parsed with { Key = value };
                    break;
                case "--secrets" when value is not null:
                    parsed = parsed with { Secrets = value };
                    break;
                case "--roots" when value is not null:
                    parsed = parsed with { Roots = [.. parsed.Roots, value] };
                    break;
                case "--against" when value is not null:
                    parsed = parsed with { Against = value };
                    break;
                case "--segments" when value is not null:
                    parsed = parsed with { Segments = value };
                    break;
                case "--as-of"
                    when value is not null && LocalDatePattern.Iso.Parse(value) is { Success: true, Value: var date }:
                    // Eight in the morning, UTC: a working day in the zones of the demo.
                    parsed = parsed with
                    {
                        AsOf = date.At(new LocalTime(8, 0)).InUtc().ToInstant(),
                    };
                    break;
                case "--seed" when int.TryParse(value, out var seed):
                    parsed = parsed with { Seed = seed };
                    break;
                case "--scale" when int.TryParse(value, out var scale) && scale is >= 1 and <= 1000:
                    parsed = parsed with { Scale = scale };
                    break;
                case var operand when !operand.StartsWith('-') && parsed.Operand is null:
                    parsed = parsed with { Operand = operand };
                    continue;
                default:
                    return null;
            }

            i++;
        }

        return parsed;
    }
}

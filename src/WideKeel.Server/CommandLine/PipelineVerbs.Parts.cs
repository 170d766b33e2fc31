using System.Globalization;
using System.Text.Json.Nodes;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.Activity;
using WideKeel.Core.Readiness;

namespace WideKeel.Server.CommandLine;

/// <content>Watches, access, readiness and samples.</content>
internal sealed partial class PipelineVerbs
{
    private Outcome<string> Watch(string[] args)
    {
        if (args is ["--templates"])
        {
            return WatchTemplates.Json;
        }

        var options = Options(args, "--watches", "--events", "--until");
        if (options.Refusal is { } wrong)
        {
            return wrong;
        }

        if (
            !options.Value.TryGetValue("--watches", out var watchesFile)
            || !options.Value.TryGetValue("--events", out var eventsFile)
        )
        {
            return new Refusal(
                "usage",
                null,
                "Usage: widekeel watch --watches W.json --events E.jsonl [--until INSTANT] | --templates"
            );
        }

        var until = options.Value.TryGetValue("--until", out var text) ? EventLine.Moment(text) : null;
        if (text is not null && until is null)
        {
            return new Refusal(
                "moment-malformed",
                "--until",
                $"--until: “{text}” is no moment such as 2026-06-01T08:00:00Z."
            );
        }

        var set = Read(watchesFile, file => WatchFile.Read(file.ReadToEnd(), LocalDate.FromDateTime(DateTime.UtcNow)));
        var events = Read(eventsFile, WatchFile.ReadEvents);
        if ((set.Refusal ?? events.Refusal) is { } unread)
        {
            return unread;
        }

        var run = new WatchRun(events.Value, set.Value.Networks, set.Value.People, set.Value.Zone, until);
        return Lines(run.Alerts(set.Value.Watches).Select(WatchFile.Write));
    }

    private Outcome<string> ReachOf(string[] args)
    {
        var options = Options(args, "--directory", "--person", "--resource", "--group", "--as-of");
        if (options.Refusal is { } wrong)
        {
            return wrong;
        }

        var asked = options.Value;
        if (
            !asked.TryGetValue("--directory", out var file)
            || asked.Keys.Count(k => k is "--person" or "--resource" or "--group") > 1
        )
        {
            return new Refusal(
                "usage",
                null,
                "Usage: widekeel reach --directory D.json [--person ID | --resource ID | --group ID] [--as-of DATE]"
            );
        }

        var today = Today(asked);
        var directory = Read(file, read => AccessFile.Read(read.ReadToEnd()));
        if ((today.Refusal ?? directory.Refusal) is { } unread)
        {
            return unread;
        }

        var model = directory.Value;
        var access = new EffectiveAccess(model, today.Value);
        if (asked.TryGetValue("--group", out var group))
        {
            return model.Groups.Any(g => g.Id == group)
                ? Lines(access.OfGroup(group).Select(AccessFile.WriteGain))
                : Unknown("--group", "group", group);
        }

        if (asked.TryGetValue("--person", out var person))
        {
            return person == EffectiveAccess.Anyone ? Lines(access.OfAnyone().Select(AccessFile.Write))
                : model.People.FirstOrDefault(p => p.Id == person) is { } found
                    ? Lines(access.OfPerson(found).Select(AccessFile.Write))
                : Unknown("--person", "person", person);
        }

        if (asked.TryGetValue("--resource", out var resource))
        {
            return model.Resources.Any(r => r.Id == resource)
                ? Lines(access.All().Where(r => r.Resource == resource).Select(AccessFile.Write))
                : Unknown("--resource", "resource", resource);
        }

        return Lines(access.All().Select(AccessFile.Write));

        Refusal Unknown(string option, string what, string id) =>
            new("id-unknown", option, $"{option}: there is no {what} “{id}” in {file}.");
    }

    private Outcome<string> Readiness(string[] args)
    {
        var options = Options(args, "--model", "--as-of", "--forecast", "--hours");
        if (options.Refusal is { } wrong)
        {
            return wrong;
        }

        if (!options.Value.TryGetValue("--model", out var file) || DateOf(options.Value, "--as-of") is not { } asOf)
        {
            return new Refusal(
                "usage",
                null,
                "Usage: widekeel readiness --model M.json --as-of DATE [--forecast DATE] [--hours N]"
            );
        }

        var forecast = DateOf(options.Value, "--forecast");
        var hours = NumberOf(options.Value, "--hours", 0, decimal.MaxValue);
        var model = Read(file, read => ReadinessFile.Read(read.ReadToEnd()));
        if ((asOf.Refusal ?? forecast?.Refusal ?? hours?.Refusal ?? model.Refusal) is { } unread)
        {
            return unread;
        }

        return Lines([
            ReadinessFile.Write(
                ReadinessComputation.On(asOf.Value, model.Value),
                forecast is { } day ? ReadinessComputation.On(day.Value, model.Value) : null,
                ReadinessComputation.Fixes(asOf.Value, model.Value, hours?.Value ?? 40)
            ),
        ]);
    }

    // Long because six options are read and checked, each in its own words.
    private static Outcome<string> Sample(string[] args)
    {
        var finite = args.Contains("--finite");
        var options = Options(
            [.. args.Where(a => a != "--finite")],
            "--population",
            "--confidence",
            "--tolerable",
            "--expected",
            "--found",
            "--size"
        );
        if (options.Refusal is { } wrong)
        {
            return wrong;
        }

        var asked = options.Value;
        var population = WholeOf(asked, "--population", 1, 1_000_000_000);
        var confidence = NumberOf(asked, "--confidence", 0, 1);
        var tolerable = NumberOf(asked, "--tolerable", 0, 1);
        var expected = NumberOf(asked, "--expected", 0, 1);
        var found = WholeOf(asked, "--found", 0, 1_000_000_000);
        var size = WholeOf(asked, "--size", 1, 1_000_000_000);
        if (
            (
                population?.Refusal
                ?? confidence?.Refusal
                ?? tolerable?.Refusal
                ?? expected?.Refusal
                ?? found?.Refusal
                ?? size?.Refusal
            ) is
            { } unread
        )
        {
            return unread;
        }

        var limit = found is not null || size is not null;
        if (
            (
                limit
                    ? found is null || size is null || (finite && population is null)
                    : population is null || tolerable is null
            )
        )
        {
            return new Refusal(
                "usage",
                null,
                "Usage: widekeel sample --population N [--confidence C] --tolerable T [--expected E] [--finite] "
                    + "[--found K --size n]"
            );
        }

        var sure = confidence?.Value ?? 0.95m;
        return limit
            ? UpperLimit(found!.Value.Value, size!.Value.Value, sure, finite ? population!.Value.Value : null)
            : SampleSize(population!.Value.Value, sure, tolerable!.Value.Value, expected?.Value ?? 0, finite);
    }

    private static Outcome<string> SampleSize(
        long population,
        decimal confidence,
        decimal tolerable,
        decimal expected,
        bool finite
    )
    {
        var plan = AttributeSample.Plan(population, confidence, tolerable, expected, finite);
        return plan.Refusal is { } refusal
            ? refusal
            : Lines([new JsonObject { ["size"] = plan.Value.Size, ["allowed"] = plan.Value.Allowed }]);
    }

    private static Outcome<string> UpperLimit(long found, long size, decimal confidence, long? population)
    {
        if (found > size || size > population)
        {
            return new Refusal(
                "sample-impossible",
                found > size ? "--found" : "--size",
                found > size
                    ? "--found: no more can be found than were looked at."
                    : "--size: no more can be looked at than there are."
            );
        }

        var limit = population is { } whole
            ? AttributeSample.UpperLimit(found, size, confidence, whole)
            : AttributeSample.UpperLimit(found, size, confidence);
        return Lines([new JsonObject { ["upperLimit"] = Math.Round(limit, 6) }]);
    }

    /// <summary>A number of an option, between bounds; null where it is not given.</summary>
    private static Outcome<decimal>? NumberOf(
        Dictionary<string, string> options,
        string option,
        decimal least,
        decimal most
    ) =>
        !options.TryGetValue(option, out var text) ? (Outcome<decimal>?)null
        : decimal.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number)
        && number >= least
        && number <= most
            ? (Outcome<decimal>)number
        : new Refusal(
            "number-malformed",
            option,
            most == decimal.MaxValue
                ? $"{option}: “{text}” is no number of {least.ToString(CultureInfo.InvariantCulture)} or more."
                : string.Create(
                    CultureInfo.InvariantCulture,
                    $"{option}: “{text}” is no number from {least} to {most}."
                )
        );

    private static Outcome<long>? WholeOf(Dictionary<string, string> options, string option, long least, long most) =>
        NumberOf(options, option, least, most) is not { } number ? (Outcome<long>?)null
        : number.Refusal is { } refusal ? (Outcome<long>)refusal
        : number.Value == decimal.Truncate(number.Value) ? (Outcome<long>)(long)number.Value
        : new Refusal("number-malformed", option, $"{option}: “{options[option]}” is no whole number.");

    private static string Lines(IEnumerable<JsonObject> objects) =>
        string.Concat(objects.Select(o => o.ToJsonString(Plain) + "\n"));
}

using System.Globalization;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>What a reviewer is advised on a line, with the grounds.</summary>
internal static class ReviewAdvice
{
    private const int QuietDays = 30;

    /// <summary>Of people of the same unit and title, so few having it is a ground for removal.</summary>
    private const double FewPeers = 0.25;

    // Long because each ground is asked in its own way.
    public static (bool Remove, IReadOnlyList<string> Grounds) Of(
        ReviewFacts facts,
        HashSet<(string, string?)> toxic,
        PersonFacts person,
        string what,
        IReadOnlySet<string> audience
    )
    {
        var directory = facts.Directory;
        var today = directory.Today;
        List<string> against = [];
        if (person.Left <= today)
        {
            against.Add($"{person.Name} left on {Day(person.Left!.Value)}.");
        }

        if (directory.Since > today.PlusDays(-QuietDays))
        {
            // Sign-ins are not known for long enough to say that there was none.
        }
        else if (facts.LastSignIn.Count == 0)
        {
            // No source reports sign-ins.
        }
        else if (!facts.LastSignIn.TryGetValue(person.Id, out var last))
        {
            against.Add("No sign-in is known.");
        }
        else if (last < today.PlusDays(-QuietDays))
        {
            against.Add($"The last sign-in was on {Day(last)}.");
        }

        var place = directory.Resources.GetValueOrDefault(what);
        if (place is { Kind: not "application" } && directory.IsUnused(person.Id, place.Name))
        {
            against.Add($"{place.Name} was not used for {Mending.UnusedDays} days.");
        }

        if (Peers(directory, person, audience) is { Of: >= 4 } peers && peers.Upper < FewPeers)
        {
            against.Add(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{peers.With} of {peers.Of} people of the same unit and title have it (at most {peers.Upper:P0}, Wilson, 95 %)."
                )
            );
        }

        if (toxic.Any(t => t.Item1 == person.Id && t.Item2 == what))
        {
            against.Add("It makes a toxic pair with another role of theirs.");
        }

        if (
            person.Sponsor is { } sponsor
            && directory.People.TryGetValue(sponsor, out var answers)
            && answers.Left <= today
        )
        {
            against.Add($"The guest’s sponsor, {answers.Name}, has left.");
        }

        if (against.Count > 0)
        {
            return (true, against);
        }

        return facts.Confirmed.Contains((person.Id, what))
            ? (false, ["It was confirmed within the last month."])
            : (false, [Kept(directory, person, place)]);
    }

    /// <summary>What is advised on a link or a consent.</summary>
    public static (bool Remove, IReadOnlyList<string> Grounds) OfEverybody(MendingFacts facts, HeldAccess held)
    {
        if (held.IsConsent)
        {
            var wrong = facts
                .Consents.Where(c => c.Application == held.What && c.By == held.Person)
                .SelectMany(c => Mending.ConsentFaults(facts, c))
                .ToList();
            return wrong.Count > 0 ? (true, wrong) : (false, ["It reaches no more than it needs, and it is used."]);
        }

        var place = facts.Resources[held.What];
        List<string> against =
        [
            .. held.Person == EffectiveAccess.Anyone && !place.Outside
                ? [$"Sharing {place.Name} outside is not allowed."]
                : Array.Empty<string>(),
            .. place.Sensitive ? [$"{place.Name} holds sensitive material."] : Array.Empty<string>(),
        ];
        return against.Count > 0 ? (true, against) : (false, ["Nothing speaks against it."]);
    }

    private static string Kept(MendingFacts facts, PersonFacts person, ResourceFacts? place) =>
        place is null ? "Nothing speaks against it."
        : facts.LastUse.TryGetValue((person.Id, place.Name), out var used)
            ? $"It was used on {Day(used)}, and nothing speaks against it."
        : facts.CollectedSince.ContainsKey(place.Name) ? "Nothing speaks against it."
        : $"Nothing speaks against it; no events of {place.Name} are collected, so whether it is used is not known.";

    /// <summary>How many people of the same unit and title have it, and the upper end of the Wilson interval.</summary>
    private static (int With, int Of, double Upper) Peers(
        MendingFacts facts,
        PersonFacts person,
        IReadOnlySet<string> audience
    )
    {
        var peers = facts
            .People.Values.Where(p =>
                p.Id != person.Id
                && p.Unit == person.Unit
                && p.Title == person.Title
                && p.Kind == person.Kind
                && (p.Left is null || p.Left > facts.Today)
            )
            .ToList();
        var with = peers.Count(p => audience.Contains(p.Id));
        return (with, peers.Count, Reviews.Wilson(with, peers.Count).Upper);
    }

    private static string Day(LocalDate day) => day.ToString("d MMM uuuu", CultureInfo.InvariantCulture);
}

using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Core.Time;

namespace WideKeel.Server.Access;

/// <summary>What a review asks, as <see cref="ReviewDefinition"/> says.</summary>
public sealed record ReviewSettings(
    string Name,
    IReadOnlyList<string> Groups,
    IReadOnlyList<string> Resources,
    ReviewPeople People,
    int InactiveDays,
    ReviewerKind Reviewer,
    IReadOnlyList<string> Named,
    string Deputy,
    int Days,
    DateOnly Start,
    string Recurrence,
    bool ReasonsRequired,
    SilenceRule Silence,
    bool ApplyItself,
    string Words,
    IReadOnlyList<ReviewStage>? Later = null,
    IReadOnlyList<int>? Reminders = null,
    string ReminderWords = "",
    IReadOnlyList<string>? Informed = null,
    IReadOnlyList<string>? Applications = null,
    IReadOnlyList<ReviewSet>? Sets = null,
    IReadOnlyList<string>? Roles = null,
    bool Links = false
);

/// <summary>Reads a review as it is sent, and says what is wrong with it.</summary>
internal static class ReviewForm
{
    private const int MostStages = 5;
    private const int MostReminders = 10;
    private const int UsualReminder = 3;

    /// <summary>The review that somebody asks for, or why there can be none.</summary>
    public static Outcome<ReviewDefinition> Read(ReviewSettings request, AccessGround ground) =>
        Check(request, ground) is { } refusal ? refusal : Definition(request);

    public static ReviewDefinition Definition(ReviewSettings s) =>
        new(
            s.Name.Trim(),
            s.Groups,
            s.Resources,
            s.People,
            s.InactiveDays,
            s.Reviewer,
            [.. s.Named.Select(m => m.ToLowerInvariant())],
            s.Deputy.ToLowerInvariant(),
            s.Days,
            LocalDate.FromDateOnly(s.Start),
            s.Recurrence,
            s.ReasonsRequired,
            s.Silence,
            s.ApplyItself,
            s.Words
        )
        {
            Later = [.. (s.Later ?? []).Select(l => l with { Named = [.. l.Named.Select(m => m.ToLowerInvariant())] })],
            Reminders = [.. (s.Reminders ?? [UsualReminder]).Distinct().OrderDescending()],
            ReminderWords = s.ReminderWords,
            Informed = [.. (s.Informed ?? []).Select(m => m.ToLowerInvariant()).Distinct()],
            Applications = s.Applications ?? [],
            Sets = [.. (s.Sets ?? []).Distinct()],
            Roles = s.Roles ?? [],
            Links = s.Links,
        };

    public static ReviewSettings Of(ReviewDefinition d) =>
        new(
            d.Name,
            d.Groups,
            d.Resources,
            d.People,
            d.InactiveDays,
            d.Reviewer,
            d.Named,
            d.Deputy,
            d.Days,
            d.Start.ToDateOnly(),
            d.Recurrence,
            d.ReasonsRequired,
            d.Silence,
            d.ApplyItself,
            d.Words,
            d.Later,
            d.Reminders,
            d.ReminderWords,
            d.Informed,
            d.Applications,
            d.Sets,
            d.Roles,
            d.Links
        );

    public static Refusal? Check(ReviewSettings s, AccessGround ground)
    {
        if (string.IsNullOrWhiteSpace(s.Name) || s.Name.Length > 200)
        {
            return new("name-missing", "name", "A review needs a name of at most 200 characters.");
        }

        if (s.Groups.Count + s.Resources.Count + (s.Applications?.Count ?? 0) + (s.Sets?.Count ?? 0) == 0)
        {
            return new("reach-missing", "groups", "Choose at least one group, place or application to ask about.");
        }

        if (s.Applications?.FirstOrDefault(a => ground.State.Applications.All(x => x.Id != a)) is { } application)
        {
            return new(
                "application-unknown",
                "applications",
                $"The directory does not know the application “{application}”."
            );
        }

        if (s.Groups.FirstOrDefault(g => ground.State.Groups.All(x => x.Id != g)) is { } group)
        {
            return new("group-unknown", "groups", $"The directory does not know the group “{group}”.");
        }

        if (s.Resources.FirstOrDefault(r => ground.State.Resources.All(x => x.Id != r)) is { } place)
        {
            return new("resource-unknown", "resources", $"The directory does not know the place “{place}”.");
        }

        if (s.Roles?.FirstOrDefault(r => !ground.Roles.Contains(r)) is { } role)
        {
            return new("role-unknown", "roles", $"Nobody has the role “{role}” on any place.");
        }

        if (s.Days is < 1 or > 365 || s.InactiveDays is < 0 or > 3650)
        {
            return new("days-malformed", "days", "A round lasts 1 to 365 days.");
        }

        return CheckReviewers(s) ?? Recurrence.Check(s.Recurrence, "recurrence");
    }

    private static Refusal? CheckReviewers(ReviewSettings s)
    {
        if (s.Reviewer == ReviewerKind.Named && s.Named.Count == 0)
        {
            return new("reviewer-missing", "named", "Name at least one reviewer.");
        }

        if (CheckStages(s) is { } stage)
        {
            return stage;
        }

        if (s.Reminders is { } days && (days.Count > MostReminders || days.Any(d => d is < 0 or > 365)))
        {
            return new(
                "reminders-malformed",
                "reminders",
                $"At most {MostReminders} reminders, 0 to 365 days before the end."
            );
        }

        foreach (
            var mail in s
                .Named.Concat((s.Later ?? []).SelectMany(l => l.Named))
                .Concat(s.Informed ?? [])
                .Append(s.Deputy)
                .Where(m => m.Length > 0)
        )
        {
            if (!MailAddress.IsOne(mail))
            {
                return new("reviewer-malformed", "named", $"“{mail}” is no mail address.");
            }
        }

        return null;
    }

    private static Refusal? CheckStages(ReviewSettings s)
    {
        var later = s.Later ?? [];
        if (later.Count > MostStages - 1 || later.Any(l => l.Days is < 1 or > 365))
        {
            return new("stages-malformed", "later", $"A round has at most {MostStages} stages of 1 to 365 days.");
        }

        if ((later.Count == 0 ? s.Reviewer : later[^1].Reviewer) == ReviewerKind.Self)
        {
            return new(
                "self-last",
                later.Count == 0 ? "reviewer" : "later",
                "Nobody decides on their own access: add a stage after the people themselves."
            );
        }

        if (later.Any(l => l.Reviewer == ReviewerKind.Named && l.Named.Count == 0))
        {
            return new("reviewer-missing", "later", "Name at least one reviewer of each stage.");
        }

        return null;
    }
}

using System.Globalization;

/// <summary>Eight weeks with incidents that are done in an hour, and their innocents.</summary>
internal sealed class LoudWorld : SeededWorld
{
    public LoudWorld(int seed)
        : base(seed, 56)
    {
        Live();
        foreach (var plant in Plants())
        {
            plant();
        }
    }

    private IEnumerable<Action> Plants()
    {
        yield return Guessing;
        yield return () => Export("Export at night");
        yield return Leaver;
        yield return () => One("Forwarding", "mail.forward-set");
        yield return Deletions;
        yield return Logging;
        yield return Journey;
        yield return () => One("Consent", "app.consent");
        yield return Shares;
        yield return Move;
        yield return Traveller;
    }

    private void Guessing()
    {
        var (actor, day, first) = (Somebody(), Day(), Events.Count);
        var tries = 12 + Random.Next(20);
        for (var i = 0; i < tries; i++)
        {
            Fail(day + (i * (0.15 + (Random.NextDouble() * 0.2))), actor, Abroad());
        }

        Add((Events[^1].Time - Start).TotalDays + 0.05, "sign-in", actor, Abroad());
        Note("Slow guessing", actor, first, Events.Count - 1);
    }

    private void Export(string kind)
    {
        var (actor, day, first) = (Somebody(), Math.Floor(Day()) + 0.06, Events.Count);
        var files = 25 + Random.Next(60);
        AddRun(files, day, 0.0004, "file.download", actor, "198.51.100.9", "Lists");

        Note(kind, actor, first, first + 15);
    }

    private void Leaver()
    {
        var (day, first) = (Day(), Events.Count);
        const string actor = Gone;
        Add(day, "sign-in", actor, string.Create(CultureInfo.InvariantCulture, $"203.0.113.{32 + Random.Next(30)}"));
        Note("Leaver’s account from abroad", actor, first, first);
    }

    private void One(string kind, string action)
    {
        var (actor, first) = (Somebody(), Events.Count);
        Add(Day(), action, actor, "192.0.2.40", "outside");
        Note(kind, actor, first, first);
    }

    private void Deletions()
    {
        var (actor, day, first) = (Somebody(), Day(), Events.Count);
        var files = 8 + Random.Next(25);
        AddRun(files, day, 0.0003, "file.delete", actor, "192.0.2.44", "Incident");

        Note("Deletions after an incident", actor, first, Math.Min(Events.Count - 1, first + 7));
    }

    private void Logging()
    {
        var (day, first) = (Day(), Events.Count);
        Add(day, "log.stop", "svc.gateway@x.example", "192.0.2.250");
        Add(day + 0.08, "log.start", "svc.gateway@x.example", "192.0.2.250");
        Note("Logging stopped", "svc.gateway@x.example", first, first);
    }

    private void Journey()
    {
        var (actor, day, first) = (Somebody(), Day(), Events.Count);
        Add(day, "sign-in", actor, "192.0.2.60");
        Add(
            day + 0.03,
            "sign-in",
            actor,
            string.Create(CultureInfo.InvariantCulture, $"203.0.113.{64 + Random.Next(30)}")
        );
        Note("Impossible journey", actor, first, first + 1);
    }

    private void Shares()
    {
        var (actor, day, first) = (Somebody(), Math.Floor(Day()) + 0.9, Events.Count);
        var shares = 12 + Random.Next(20);
        AddRun(shares, day, 0.001, "share.link", actor, "198.51.100.90", "Tariff");

        Note("Shares before leaving", actor, first, Math.Min(Events.Count - 1, first + 11));
    }

    /// <summary>Innocent: a folder is moved as announced.</summary>
    private void Move()
    {
        var (actor, day) = (Somebody(), Math.Floor(Day()) + 0.4);
        AddRun(300, day, 0.0002, "file.move", actor, "192.0.2.52", "Reports");
    }

    /// <summary>Innocent: somebody works from a neighbouring country for a week, as others did before.</summary>
    private void Traveller()
    {
        var (actor, day) = (Somebody(), Math.Floor(Day()));
        Forget(actor, day, 4);
        for (var i = 0; i < 4; i++)
        {
            Add(day + i + 0.35, "sign-in", actor, "203.0.113.7");
        }

        Add(3.4, "sign-in", Somebody(), "203.0.113.9");
    }
}

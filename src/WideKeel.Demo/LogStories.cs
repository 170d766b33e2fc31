using System.Globalization;
using NodaTime;
using WideKeel.Core.Activity;

namespace WideKeel.Demo;

/// <summary>What the demo plants among the usual days: incidents, and two things that only look like one.</summary>
/// <param name="anybody">Somebody who is there every day.</param>
internal sealed class LogStories(Logs logs, string anybody)
{
    private const string Karl = "karl.nyman@tarnholm.example";
    private const string Henrik = "henrik.wick@tarnholm.example";

    public void Plant()
    {
        Guessing();
        PassengerLists();
        Leaver();
        Forwarding();
        PierPhotographs();
        Journey();
        Consent();
        OutsideShares();
        MassMove();
    }

    private Instant At(int day, double hour) => logs.At(day, hour);

    private static string Mail(string name) => Scenario.MailOf(name);

    /// <summary>Passwords tried slowly, from many networks, until one fits.</summary>
    private void Guessing()
    {
        var actor = Mail("Lena Marsh");
        for (var day = -26; day < -14; day++)
        {
            for (var i = 0; i < 4; i++)
            {
                logs.SignIn(
                    actor,
                    At(day, 2.5 + (i * 5.1)),
                    string.Create(CultureInfo.InvariantCulture, $"203.0.113.{5 + (31 * ((day + 60 + i) % 7))}"),
                    null,
                    EventOutcome.Failure,
                    "bad-password"
                );
            }
        }

        logs.SignIn(actor, At(-14, 3.2), "203.0.113.98", null, EventOutcome.Success, null);
        logs.Note("Slow password guessing", actor, At(-26, 0), At(-14, 4), 49);
    }

    /// <summary>A purser takes passenger lists at night.</summary>
    private void PassengerLists()
    {
        var actor = Mail("Nora Falk");
        for (var i = 0; i < 46; i++)
        {
            var number = i + 1;
            logs.Add(
                DemoSystem.Files,
                At(-20, 2.1 + (i * 0.011)),
                "file.download",
                actor,
                e =>
                    e with
                    {
                        Object = string.Create(
                            CultureInfo.InvariantCulture,
                            $"Passenger Services/Passenger list {number}.xlsx"
                        ),
                        Container = "Passenger Services",
                        Address = "198.51.100.70",
                        Device = "WS-144",
                        Amount = 310_000,
                    }
            );
        }

        logs.Note("Passenger lists exported at night", actor, At(-20, 2), At(-20, 3), 46);
    }

    private void Leaver()
    {
        var actor = Mail("Goran Haugen");
        logs.SignIn(actor, At(-35, 11.4), "203.0.113.40", null, EventOutcome.Success, null);
        for (var i = 0; i < 7; i++)
        {
            var number = i + 1;
            logs.Add(
                DemoSystem.Files,
                At(-35, 11.5 + (i * 0.02)),
                "file.read",
                actor,
                e =>
                    e with
                    {
                        Object = string.Create(
                            CultureInfo.InvariantCulture,
                            $"Yard & Engineering/Work order {number}.docx"
                        ),
                        Container = "Yard & Engineering",
                        Address = "203.0.113.40",
                    }
            );
        }

        logs.Note("A leaver’s account used from a new country", actor, At(-35, 11), At(-35, 12), 8);
    }

    private void Forwarding()
    {
        var actor = Mail("Ruth Ferro");
        logs.Add(
            DemoSystem.Mail,
            At(-41, 16.2),
            "mail.forward-set",
            actor,
            e => e with { Target = "ruth.private@mailbox.example", Address = "198.51.100.81" }
        );
        logs.Note("A mailbox forwards outside", actor, At(-41, 16), At(-41, 17), 1);
    }

    /// <summary>
    /// The photographs of pier 4, deleted last night under one person's name, from the machine of another, while the
    /// gateway did not log.
    /// </summary>
    private void PierPhotographs()
    {
        const string address = "192.0.2.117";
        const string machine = "WS-061";
        logs.Add(
            DemoSystem.Gateway,
            At(-1, 20.6),
            "device.lease",
            "dhcp",
            e => e with { Device = machine, Address = address }
        );
        logs.SignIn(Henrik, At(-1, 20.7), address, machine, EventOutcome.Success, null);
        logs.Add(
            DemoSystem.Gateway,
            At(-1, 21.0),
            "log.stop",
            "svc.gateway@tarnholm.example",
            e => e with { Device = "gw-1" }
        );
        logs.SignIn(Karl, At(-1, 21.3), address, machine, EventOutcome.Failure, "bad-password");
        logs.SignIn(Karl, At(-1, 21.32), address, machine, EventOutcome.Success, null);
        for (var i = 0; i < 14; i++)
        {
            var number = i + 1;
            logs.Add(
                DemoSystem.Files,
                At(-1, 21.4 + (i * 0.006)),
                "file.delete",
                Karl,
                e =>
                    e with
                    {
                        Object = string.Create(
                            CultureInfo.InvariantCulture,
                            $"Incidents/Pier 4/Photograph {number:00}.jpg"
                        ),
                        Container = "Incidents",
                        Address = address,
                        Amount = 4_200_000,
                    }
            );
        }

        logs.Add(
            DemoSystem.Gateway,
            At(-1, 23.0),
            "log.start",
            "svc.gateway@tarnholm.example",
            e => e with { Device = "gw-1" }
        );
        logs.Note("Photographs of the pier deleted", Karl, At(-1, 21.4), At(-1, 21.5), 14);
        logs.Note("Logging switched off for two hours", "svc.gateway@tarnholm.example", At(-1, 21), At(-1, 23), 2);
    }

    private void Journey()
    {
        var actor = Mail("Vera Quist");
        logs.SignIn(actor, At(-9, 8.1), "192.0.2.31", "WS-009", EventOutcome.Success, null);
        logs.SignIn(actor, At(-9, 8.9), "203.0.113.70", null, EventOutcome.Success, null);
        logs.Note("An impossible journey", actor, At(-9, 8), At(-9, 9), 2);
    }

    private void Consent()
    {
        var actor = Mail("Stina Dorn");
        logs.Add(
            DemoSystem.Portal,
            At(-17, 13.5),
            "app.consent",
            actor,
            e => e with { Object = "QuickSheet Sync", Target = "all files", Address = "192.0.2.44" }
        );
        logs.Note("Consent to a strange application", actor, At(-17, 13), At(-17, 14), 1);
    }

    /// <summary>Shared outside in the night before the last day.</summary>
    private void OutsideShares()
    {
        var actor = Mail("Emil Lund");
        logs.SignIn(actor, At(-12, 21.4), "198.51.100.90", null, EventOutcome.Success, null);
        for (var i = 0; i < 24; i++)
        {
            var number = i + 1;
            logs.Add(
                DemoSystem.Files,
                At(-12, 21.5 + (i * 0.01)),
                "file.download",
                actor,
                e =>
                    e with
                    {
                        Object = string.Create(
                            CultureInfo.InvariantCulture,
                            $"Freight & Ticketing/Tariff {number}.xlsx"
                        ),
                        Container = "Freight & Ticketing",
                        Address = "198.51.100.90",
                        Amount = 180_000,
                    }
            );
        }

        for (var i = 0; i < 22; i++)
        {
            var number = i + 1;
            logs.Add(
                DemoSystem.Portal,
                At(-12, 22.2 + (i * 0.03)),
                "share.link",
                actor,
                e =>
                    e with
                    {
                        Object = string.Create(
                            CultureInfo.InvariantCulture,
                            $"Freight & Ticketing/Tariff {number}.xlsx"
                        ),
                        Target = "anyone",
                        Address = "198.51.100.90",
                    }
            );
        }

        logs.Note("Outside shares in the night before leaving", actor, At(-12, 21.4), At(-12, 23), 47);
    }

    /// <summary>A legitimate move of a whole folder, announced and harmless.</summary>
    private void MassMove()
    {
        var actor = Mail("Edvin Strand");
        for (var i = 0; i < 380; i++)
        {
            var number = i + 1;
            logs.Add(
                DemoSystem.Files,
                At(-50, 9 + (i * 0.004)),
                "file.move",
                actor,
                e =>
                    e with
                    {
                        Object = string.Create(
                            CultureInfo.InvariantCulture,
                            $"Northern Routes/Voyage report {number}.docx"
                        ),
                        Container = "Northern Routes",
                        Target = "Northern Routes/Archive",
                        Address = "192.0.2.52",
                    }
            );
        }

        logs.Note("A mass move that was announced", actor, At(-50, 9), At(-50, 11), 380, innocent: true);
        logs.Note("Backup every night", "svc.backup@tarnholm.example", At(-90, 0), At(0, 0), 40 * 90, innocent: true);
        logs.Add(
            DemoSystem.Portal,
            At(-60, 10),
            "role.add",
            anybody,
            e => e with { Object = "Portal administrator", Target = Mail("Jonas Aske"), Address = "192.0.2.9" }
        );
    }
}

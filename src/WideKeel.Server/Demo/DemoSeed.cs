using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Demo;
using WideKeel.Server.Content;
using WideKeel.Server.Disposition;
using WideKeel.Server.Jobs;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Server.Retention;
using WideKeel.Store;
using WideKeel.Store.Jobs;
using WideKeel.Store.People;

namespace WideKeel.Server.Demo;

/// <summary>
/// Makes the demo the way people would: files on a share, then everything through the product's own API, each step by
/// the person whose work it is. So the demo's ledger is a true one.
/// </summary>
public static class DemoSeed
{
    private const string Marker = "demo.json";

    /// <summary>So many weeks before the day of the demo it was set up.</summary>
    private const int WeeksBefore = 10;

    public static IReadOnlyList<DemoAccount> Accounts { get; } =
    [
        .. Scenario.People.Select(p => new DemoAccount(
            p.Name,
            p.Mail,
            $"{RoleWords(p.Role)} · {p.Unit}",
            Scenario.Password
        )),
    ];

    /// <summary>
    /// Makes the demo unless it stands already with the same seed, scale and day. A folder that holds something else is
    /// left alone.
    /// </summary>
    // Long because the story is told in one go.
    public static async Task EnsureAsync(WideKeelOptions options, int seed, int scale, bool fresh, Action<string> say)
    {
        var marker = Path.Combine(options.DataFolder, Marker);
        var wanted = JsonSerializer.Serialize(
            new
            {
                seed,
                scale,
                finished = true,
            }
        );
        if (!fresh && File.Exists(marker) && await File.ReadAllTextAsync(marker) == wanted)
        {
            return;
        }

        Clear(options, marker);
        Directory.CreateDirectory(options.DataFolder);
        await File.WriteAllTextAsync(marker, "{}");
        var share = ShareFolder(options);
        var zone = DateTimeZoneProviders.Tzdb[Scenario.Zone];
        var today = options.Clock.GetCurrentInstant().InZone(zone).Date;
        var story = new Story(today);
        var clock = new StoryClock(options.Clock);
        await using (
            var app = WideKeelHost.Create(
                options with
                {
                    Urls = "http://127.0.0.1:0",
                    SignInsAMinute = 1000,
                    Clock = clock,
                }
            )
        )
        {
            await app.StartAsync();
            var address = new Uri(app.Urls.First());
            var routine = app.Services.GetServices<IHostedService>().OfType<DailyRun>().Single();
            Directory.CreateDirectory(share);
            say("Setting up Tarnholm Ferries and its former years …");
            await GoToAsync(Since(story.FormerSprings[0]));
            var units = await SetUpAsync(address, app.Services);
            await FormerYearsAsync(address, units, share, story, day => GoToAsync(Since(day)));

            say("Writing its files …");
            await GoToAsync(Duration.FromDays(WeeksBefore * 7));
            var setUpOn = today.PlusWeeks(-WeeksBefore);
            var files =
                new Documents(seed, today).Write(share, scale)
                + WriteMail(LocalDate.MinIsoValue, setUpOn)
                + story.WriteShare(share)
                + story.WriteMail(MailFolder(options))
                + story.WriteWorkspace(WorkspaceFolder(options));
            say($"{files} files and messages written; taking stock …");
            await DemoAccess.BeginAsync(address, app.Services, new AccessStory(seed, today).State, WeeksBefore * 7);
            var young = new Later(Beside(options, "later"), [share, WorkspaceFolder(options)], setUpOn);
            await FillAsync(
                address,
                units,
                MailFolder(options),
                WorkspaceFolder(options),
                days => GoToAsync(Duration.FromDays(days)),
                cameSince: () =>
                {
                    young.Arrive();
                    WriteMail(setUpOn, today);
                }
            );
            await DemoActivity.MakeAsync(address, app.Services, LogFolder(options), new(seed, today, scale), say);
            await DemoAccess.GoOnAsync(address, app.Services, today);
            say("Switching its watches on …");
            await DemoWatches.MakeAsync(
                address,
                app.Services,
                today.PlusDays(-90).AtStartOfDayInZone(DateTimeZone.Utc).ToDateTimeOffset()
            );
            say("Setting up its controls, gauges and audits …");
            await DemoReadiness.MakeAsync(address, app.Services, units, seed, today);
            await app.StopAsync();

            // A day begins with its routine, and not some seconds later, when it might meet what is done on the day or
            // not.
            Task GoToAsync(Duration behind)
            {
                clock.Behind = behind;
                return routine.RunIfDueAsync(CancellationToken.None);
            }
        }

        await File.WriteAllTextAsync(marker, wanted);

        int WriteMail(LocalDate after, LocalDate through) =>
            new Documents(seed + 1, today).WriteMail(MailFolder(options), scale, after, through);

        Duration Since(LocalDate day) =>
            options.Clock.GetCurrentInstant() - day.At(new LocalTime(9, 0)).InZoneLeniently(zone).ToInstant();
    }

    /// <summary>Takes a former demo away; refuses where something else lies there.</summary>
    private static void Clear(WideKeelOptions options, string marker)
    {
        string[] contents =
        [
            ShareFolder(options),
            MailFolder(options),
            WorkspaceFolder(options),
            LogFolder(options),
            Beside(options, "later"),
        ];
        if (Directory.Exists(options.DataFolder) && Directory.EnumerateFileSystemEntries(options.DataFolder).Any())
        {
            if (!File.Exists(marker))
            {
                throw new IOException(
                    $"{options.DataFolder} holds something that is not a demo; name another folder with --data."
                );
            }

            using (var alone = new FolderLock())
            {
                // Nothing is taken from under a demo that runs.
                alone.Take(options.DataFolder);
            }

            foreach (var folder in contents.Append(options.DataFolder).Where(Directory.Exists))
            {
                Directory.Delete(folder, recursive: true);
            }
        }

        // What lies there would be found in years in which it was not there yet.
        if (contents.FirstOrDefault(Directory.Exists) is { } left)
        {
            throw new IOException(
                $"{left} is there already, without a demo that it belongs to; remove it, or name another folder with --data."
            );
        }
    }

    /// <summary>The demo's share lies beside the data folder, because a share may not lie within it.</summary>
    public static string ShareFolder(WideKeelOptions options) => Beside(options, "share");

    public static string MailFolder(WideKeelOptions options) => Beside(options, "mail");

    public static string WorkspaceFolder(WideKeelOptions options) => Beside(options, "workspace");

    /// <summary>Where the demo's file server leaves its log, and where it stands what was planted.</summary>
    private static string LogFolder(WideKeelOptions options) => Beside(options, "logs");

    private static string Beside(WideKeelOptions options, string what) =>
        Path.Combine(
            Path.GetDirectoryName(Path.TrimEndingDirectorySeparator(options.DataFolder))!,
            $"{Path.GetFileName(Path.TrimEndingDirectorySeparator(options.DataFolder))}-{what}"
        );

    private static async Task PutIntoEffectAsync(DemoClient ines, DemoClient tobias, BlanketView blanket)
    {
        var consequences = await ines.PostAsync<BlanketConsequences>(
            $"blankets/{blanket.Id}/consequences",
            blanket.Draft!
        );
        await ines.PostAsync<BlanketView>(
            $"blankets/{blanket.Id}/activation",
            new Activation(consequences.Consequences.Fingerprint, "First schedule of Tarnholm Ferries."),
            blanket.Revision
        );
        await AgreeAsync(tobias);
    }

    /// <summary>The second records manager agrees to what the first one asks for.</summary>
    private static async Task AgreeAsync(DemoClient tobias)
    {
        foreach (
            var proposal in (await tobias.GetAsync<List<ProposalView>>("proposals")).Where(p => p.MayNotDecide is null)
        )
        {
            await tobias.PostAsync<ProposalView>(
                $"proposals/{proposal.Id}/decision",
                new Decision(true, "As discussed in the records meeting."),
                proposal.Revision
            );
        }
    }

    /// <summary>The organisation, its units and its people. Returns the units by name.</summary>
    private static async Task<Dictionary<string, long>> SetUpAsync(Uri address, IServiceProvider services)
    {
        var administrator = Scenario.People.First(p => p.Role == Role.Administrator);
        using var setUp = await DemoClient.ConnectAsync(address);
        await setUp.PostAsync<Done>(
            "set-up",
            new SetUpRequest(
                Scenario.Organisation,
                Scenario.Zone,
                Scenario.FiscalYearEnd,
                administrator.Name,
                administrator.Mail,
                Scenario.Password,
                services.GetRequiredService<SetUpCode>().Word
            )
        );
        await setUp.SignInAsync(administrator.Mail);
        // Where the demo's stand-ins for other systems are.
        await setUp.PutAsync<Done>("inner-networks", new InnerNetworks("127.0.0.0/8"));
        var units = (await setUp.GetAsync<List<UnitView>>("units")).ToDictionary(u => u.Name, u => u.Id);
        foreach (var (name, parent) in Scenario.Units)
        {
            units[name] = (await setUp.PostAsync<UnitView>("units", new NewUnit(name, units[parent]))).Id;
        }

        foreach (var person in Scenario.People.Where(p => p != administrator))
        {
            await setUp.AddPersonAsync(
                services,
                new NewPerson(
                    person.Name,
                    person.Mail,
                    [
                        new(person.Role, units[person.Unit]),
                        .. person == Scenario.People[0]
                            ?
                            [
                                new RemitRequest(Role.SecurityAnalyst, units[person.Unit]),
                                new RemitRequest(Role.AuditManager, units[person.Unit]),
                            ]
                            : Array.Empty<RemitRequest>(),
                    ]
                )
            );
        }

        // Set-up makes the first person a records manager too; in the demo these are different people.
        var first = (await setUp.GetAsync<List<PersonView>>("people")).Single(p => p.Mail == administrator.Mail);
        await setUp.PutAsync<PersonView>(
            $"people/{first.Id}",
            new PersonChange(first.Name, true, [new(Role.Administrator, units[administrator.Unit])]),
            first.Revision
        );

        return units;
    }

    /// <summary>Years ago there was one series, that of the passenger lists, and a batch of them each spring.</summary>
    private static async Task FormerYearsAsync(
        Uri address,
        Dictionary<string, long> units,
        string share,
        Story story,
        Func<LocalDate, Task> goTo
    )
    {
        var planned = Scenario.Series.Single(s => s.Code == Scenario.FormerSeries);
        long series = 0;
        foreach (var day in story.FormerSprings)
        {
            await goTo(day);
            using var administrator = await SignedInAsync(
                address,
                Scenario.People.First(p => p.Role == Role.Administrator)
            );
            using var ines = await SignedInAsync(address, Scenario.People[0]);
            using var tobias = await SignedInAsync(address, Scenario.People[1]);
            story.WritePassengerLists(share, day);
            if (series == 0)
            {
                await administrator.PostAsync<Done>("sources", new NewSource(Scenario.ShareName, share));
                await administrator.WaitForJobsAsync();
                var containers = await TakeOverAsync(administrator, units);
                series = await MakeAsync(ines, planned, units, containers);
                await ines.PutAsync<Done>(
                    "filing-defaults",
                    new NewFilingDefault(containers[Scenario.PassengerLists], "", series)
                );
            }
            else
            {
                await administrator.PostAsync<JobView>(
                    $"sources/{(await administrator.GetAsync<List<SourceView>>("sources")).Single().Id}/scans",
                    new { }
                );
            }

            await administrator.WaitForJobsAsync();
            var batch = await tobias.PostAsync<BatchView>("batches", new NewBatch(series));
            await LookThroughAsync(tobias, batch.Id, 10);
            batch = await tobias.PostAsync<BatchView>(
                $"batches/{batch.Id}/sign-offs",
                new Signing("No incident or claim rests on these sailings."),
                batch.Revision
            );
            await ines.PostAsync<BatchView>($"batches/{batch.Id}/sign-offs", new Signing("Agreed."), batch.Revision);
            await administrator.WaitForJobsAsync();
        }
    }

    /// <summary>Gives each container to the unit that it belongs to. Returns their ids by name.</summary>
    private static async Task<Dictionary<string, long>> TakeOverAsync(
        DemoClient administrator,
        Dictionary<string, long> units
    )
    {
        var found = (await administrator.GetAsync<List<SourceView>>("sources")).SelectMany(s => s.Containers).ToList();
        foreach (var container in found)
        {
            var unit = units[
                Scenario.Containers.SingleOrDefault(c => c.Name == container.Name)?.Unit
                    ?? Scenario.Mailboxes.SingleOrDefault(m => m.Name == container.Name)?.Unit
                    ?? Scenario.Libraries.Single(l => l.Name == container.Name).Unit
            ];
            if (container.UnitId != unit)
            {
                await administrator.PutAsync<Done>(
                    $"containers/{container.Id}",
                    new ContainerChange(unit),
                    container.Revision
                );
            }
        }

        return found.ToDictionary(c => c.Name, c => c.Id);
    }

    /// <summary>
    /// Makes a series, files under it what lies in its containers, and puts it in force where it is to be. Returns its
    /// id.
    /// </summary>
    private static async Task<long> MakeAsync(
        DemoClient ines,
        ScenarioSeries planned,
        Dictionary<string, long> units,
        Dictionary<string, long> containers
    )
    {
        var detail = await ines.PostAsync<SeriesDetail>(
            "series",
            new NewSeries(planned.Code, units[planned.Unit], planned.Definition)
        );
        long[] own =
        [
            .. Scenario.Containers.Where(c => c.Series == planned.Code).Select(c => containers[c.Name]),
            .. Scenario.Mailboxes.Where(m => m.Series == planned.Code).Select(m => containers[m.Name]),
            .. Scenario.Libraries.Where(l => l.Series == planned.Code).Select(l => containers[l.Name]),
        ];
        if (own.Length > 0)
        {
            var filing = new Filing(new ItemQuery { Container = own }, detail.Row.Id);
            var preview = await ines.PostAsync<ConsequencesView>("filings/consequences", filing);
            await ines.PostAsync<ConsequencesView>("filings", filing with { Fingerprint = preview.Fingerprint });
        }

        if (planned.InForce)
        {
            var consequences = await ines.PostAsync<ConsequencesView>(
                $"series/{detail.Row.Id}/consequences",
                planned.Definition
            );
            await ines.PostAsync<SeriesDetail>(
                $"series/{detail.Row.Id}/activation",
                new Activation(consequences.Fingerprint, "First schedule of Tarnholm Ferries."),
                detail.Revision
            );
        }

        return detail.Row.Id;
    }

    private static async Task<DemoClient> SignedInAsync(Uri address, ScenarioPerson person)
    {
        var client = await DemoClient.ConnectAsync(address);
        await client.SignInAsync(person.Mail);
        return client;
    }

    /// <summary>The sources and the schedule of today, and the work of the last weeks.</summary>
    private static async Task FillAsync(
        Uri address,
        Dictionary<string, long> units,
        string mail,
        string workspace,
        Func<int, Task> daysAgo,
        Action cameSince
    )
    {
        using var setUp = await SignedInAsync(address, Scenario.People.First(p => p.Role == Role.Administrator));
        var former = (await setUp.GetAsync<List<SourceView>>("sources")).Single();
        await setUp.PostAsync<JobView>($"sources/{former.Id}/scans", new { });
        await setUp.PostAsync<Done>("sources", new NewSource(Scenario.MailName, mail, Core.Content.SourceKind.Mail));
        await setUp.PostAsync<Done>(
            "sources",
            new NewSource(Scenario.WorkspaceName, workspace, Core.Content.SourceKind.Workspace)
        );
        await setUp.WaitForJobsAsync();
        var containers = await TakeOverAsync(setUp, units);
        using var ines = await SignedInAsync(address, Scenario.People[0]);
        using var tobias = await SignedInAsync(address, Scenario.People[1]);
        await WriteAuthoritiesAsync(ines);
        var series = await WriteScheduleAsync(ines, tobias, units, containers);
        await ines.PostAsync<Done>("filing-suggestions/learning", new { });
        await ines.WaitForJobsAsync();
        await DemoMatters.MakeAsync(address, containers, units, daysAgo);
        await daysAgo(0);
        cameSince();
        foreach (var source in await ines.GetAsync<List<SourceView>>("sources"))
        {
            await ines.PostAsync<JobView>($"sources/{source.Id}/scans", new { });
        }

        await ines.WaitForJobsAsync();
        await TakeOverAsync(setUp, units);
        // The routine of the day learnt before these came.
        await ines.PostAsync<Done>("filing-suggestions/learning", new { });
        await ines.WaitForJobsAsync();

        await DisposeAsync(ines, tobias, series);
    }

    private static async Task WriteAuthoritiesAsync(DemoClient ines)
    {
        await ines.PostAsync<Done>("authorities/library", new { });
        foreach (var (code, definition) in Scenario.Authorities)
        {
            await ines.PostAsync<AuthorityView>("authorities", new NewAuthority(code, definition));
        }

        foreach (var type in Scenario.EventTypes)
        {
            await ines.PostAsync<TriggerEventTypeView>(
                "trigger-event-types",
                new TriggerEventTypeText(type.Name, type.Title, type.Description)
            );
        }

        foreach (var told in Scenario.Events)
        {
            await ines.PostAsync<TriggerEventView>(
                "trigger-events",
                new NewTriggerEvent(told.Type, told.Subject, LocalDatePattern.Iso.Parse(told.Date).Value, told.Note)
            );
        }
    }

    /// <returns>By their code, the ids of the series.</returns>
    private static async Task<Dictionary<string, long>> WriteScheduleAsync(
        DemoClient ines,
        DemoClient tobias,
        Dictionary<string, long> units,
        Dictionary<string, long> containers
    )
    {
        var series = (await ines.GetAsync<List<SeriesName>>("series/names")).ToDictionary(s => s.Code, s => s.Id);
        foreach (var planned in Scenario.Series.Where(s => !series.ContainsKey(s.Code)))
        {
            series[planned.Code] = await MakeAsync(ines, planned, units, containers);
        }

        // What comes into these places later belongs where what lies there does; that of the passenger lists is as old
        // as their series.
        foreach (
            var (place, code) in Scenario
                .Containers.Select(c => (c.Name, c.Series))
                .Concat(Scenario.Mailboxes.Select(m => (m.Name, m.Series)))
                .Concat(Scenario.Libraries.Select(l => (l.Name, l.Series)))
                .Where(p => p.Series is not null && p.Series != Scenario.FormerSeries)
        )
        {
            await ines.PutAsync<Done>("filing-defaults", new NewFilingDefault(containers[place], "", series[code!]));
        }

        foreach (var planned in Scenario.Blankets)
        {
            var reach = new ReachDefinition(planned.Query, [.. planned.Containers.Select(c => containers[c])], []);
            var blanket = await ines.PostAsync<BlanketView>(
                "blankets",
                new NewBlanket(
                    planned.Name,
                    units[planned.Unit],
                    new("", reach, planned.From, planned.Keep, planned.Destroys, planned.DestroyAfter)
                )
            );
            if (planned.InForce)
            {
                await PutIntoEffectAsync(ines, tobias, blanket);
            }
        }

        foreach (var rule in Scenario.FilingRules)
        {
            WantedKind[] kinds = rule.Kind is null ? [] : [new(rule.Kind, Core.Sensitive.Confidence.Likely, 1)];
            await ines.PostAsync<FilingRuleView>(
                "filing-rules",
                new FilingRuleText(rule.Name, series[rule.Series], new(rule.Query, kinds), rule.Priority)
            );
        }

        return series;
    }

    /// <summary>
    /// One batch is finished, one waits for its second signature, one is being looked through, the rest of the docket is
    /// as it falls due.
    /// </summary>
    private static async Task DisposeAsync(DemoClient ines, DemoClient tobias, Dictionary<string, long> series)
    {
        var done = await tobias.PostAsync<BatchView>("batches", new NewBatch(series["PPL-020"]));
        await LookThroughAsync(tobias, done.Id, 49);
        done = await tobias.PostAsync<BatchView>(
            $"batches/{done.Id}/sign-offs",
            new Signing("Compared with the payroll system; nothing open."),
            done.Revision
        );
        await ines.PostAsync<BatchView>($"batches/{done.Id}/sign-offs", new Signing("Agreed."), done.Revision);
        await ines.WaitForJobsAsync();
        var waiting = await tobias.PostAsync<BatchView>("batches", new NewBatch(series["VES-010"]));
        await LookThroughAsync(tobias, waiting.Id, 24);
        await tobias.PostAsync<BatchView>(
            $"batches/{waiting.Id}/sign-offs",
            new Signing("Pages checked against the vessels' list."),
            waiting.Revision
        );
        var open = await tobias.PostAsync<BatchView>("batches", new NewBatch(series["SAF-010"]));
        var first = (await LookThroughAsync(tobias, open.Id, 12))[0];
        await tobias.PostAsync<Done>(
            $"batches/{open.Id}/marks",
            new Marking(
                [first],
                Core.Disposition.Mark.Extend,
                Why: "The insurer still asks about this vessel.",
                By: "P2Y"
            )
        );
        await ines.WaitForJobsAsync();
    }

    /// <summary>Opens the first lines of a batch. Returns their items.</summary>
    private static async Task<List<long>> LookThroughAsync(DemoClient who, long batch, int lines)
    {
        List<long> opened =
        [
            .. (await who.GetAsync<LinePage>($"batches/{batch}/lines?limit={lines}")).Lines.Select(l => l.Item.Id),
        ];
        foreach (var item in opened)
        {
            await who.PostAsync<Done>($"batches/{batch}/lines/{item}/opened", new { });
        }

        return opened;
    }

    private static string RoleWords(Role role) =>
        role switch
        {
            Role.RecordsManager => "Records manager",
            Role.Steward => "Steward",
            Role.Staff => "Staff",
            Role.Administrator => "Administrator",
            Role.Legal => "Legal",
            Role.LegalLead => "Legal lead",
            Role.SecurityAnalyst => "Security analyst",
            Role.AuditManager => "Audit manager",
            Role.ExternalAuditor => "External auditor",
            _ => throw new ArgumentOutOfRangeException(nameof(role)),
        };

    /// <summary>Files that are younger than a day, out of their folders until they arrive there.</summary>
    private sealed class Later
    {
        private readonly string aside;
        private readonly List<(string Place, string Aside)> files = [];

        public Later(string aside, IEnumerable<string> folders, LocalDate day)
        {
            this.aside = Directory.CreateDirectory(aside).FullName;
            foreach (
                var file in folders
                    .SelectMany(f => Directory.GetFiles(f, "*", SearchOption.AllDirectories))
                    .Where(f => LocalDate.FromDateTime(File.GetLastWriteTimeUtc(f)) > day)
            )
            {
                files.Add((file, Path.Combine(aside, files.Count.ToString(CultureInfo.InvariantCulture))));
                File.Move(file, files[^1].Aside);
            }
        }

        public void Arrive()
        {
            foreach (var (place, from) in files)
            {
                File.Move(from, place);
            }

            Directory.Delete(aside);
        }
    }

    /// <summary>A person at the API: keeps the cookie and the form token.</summary>
    internal sealed class DemoClient : IDisposable
    {
        private readonly HttpClient http;

        private DemoClient(HttpClient http) => this.http = http;

        public static async Task<DemoClient> ConnectAsync(Uri address)
        {
            var client = new DemoClient(
                new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer() })
                {
                    BaseAddress = new Uri(address, "/api/"),
                    Timeout = TimeSpan.FromMinutes(30),
                }
            );
            client.UseToken(await client.GetAsync<SessionView>("session"));
            return client;
        }

        public async Task SignInAsync(string mail) =>
            UseToken(await PostAsync<SessionView>("session", new SignInRequest(mail, Scenario.Password)));

        /// <summary>Adds a person, who chooses the demo's password by a link of their own.</summary>
        public async Task AddPersonAsync(IServiceProvider services, NewPerson person)
        {
            var added = await PostAsync<InvitedPerson>("people", person);
            var secret = await services
                .GetRequiredService<Writer>()
                .RunAsync<string>(
                    LedgerActor.Job("demo", null),
                    async session =>
                        PersonLinks.Issue(
                            session,
                            (LinkKind.Invitation, added.Person.Id),
                            person.Mail,
                            Duration.FromDays(1)
                        )
                );
            await PostAsync<Done>($"invitations/{secret.Value}", new ChosenPassword(Scenario.Password));
        }

        /// <summary>Opens what somebody without an account was sent, with the code from their mailbox.</summary>
        /// <returns>The secret of the link.</returns>
        public async Task<string> OpenLinkAsync(IServiceProvider services, (LinkKind Kind, long Id) what, string mail)
        {
            var links = services.GetRequiredService<PersonLinks>();
            var opened = await services
                .GetRequiredService<Writer>()
                .RunAsync<(string Secret, string Code)>(
                    LedgerActor.Job("demo", null),
                    async session =>
                    {
                        var secret = PersonLinks.Issue(session, what, mail, Duration.FromDays(1));
                        await session.Db.SaveChangesAsync();
                        var link = await links.FindAsync(session.Db, secret, CancellationToken.None);
                        return (secret, links.NewCode(link!).Value);
                    }
                );
            await PostAsync<Done>($"links/{opened.Value.Secret}/entrance", new LinkCode(opened.Value.Code));
            return opened.Value.Secret;
        }

        public async Task<T> GetAsync<T>(string path) => (await http.GetFromJsonAsync<T>(path, ReadOptions))!;

        public Task<T> PostAsync<T>(string path, object body, long? revision = null) =>
            SendAsync<T>(HttpMethod.Post, path, body, revision);

        public Task<T> PutAsync<T>(string path, object body, long? revision = null) =>
            SendAsync<T>(HttpMethod.Put, path, body, revision);

        /// <summary>Hands a file over to a channel.</summary>
        public async Task PostTextAsync(string path, string json)
        {
            using var response = await http.PostAsync(
                path,
                new StringContent(json, System.Text.Encoding.UTF8, "application/json")
            );
            response.EnsureSuccessStatusCode();
        }

        /// <summary>Gives a file.</summary>
        public async Task PostBytesAsync(string path, byte[] bytes)
        {
            using var content = new ByteArrayContent(bytes);
            using var response = await http.PostAsync(path, content);
            response.EnsureSuccessStatusCode();
        }

        public async Task HandOverAsync(long channel, string file, string text)
        {
            using var content = new StringContent(text);
            using var response = await http.PostAsync(
                new Uri($"channels/{channel}/files?file={file}", UriKind.Relative),
                content
            );
            response.EnsureSuccessStatusCode();
        }

        /// <summary>Until nothing waits or runs any more that this person may see.</summary>
        public async Task WaitForJobsAsync()
        {
            while ((await GetAsync<List<JobView>>("jobs")).Any(j => j.State is JobState.Queued or JobState.Running))
            {
                await Task.Delay(100);
            }
        }

        public void Dispose() => http.Dispose();

        private static JsonSerializerOptions ReadOptions => Json.Options;

        private void UseToken(SessionView session)
        {
            http.DefaultRequestHeaders.Remove("X-XSRF-TOKEN");
            http.DefaultRequestHeaders.Add("X-XSRF-TOKEN", session.Token);
        }

        private async Task<T> SendAsync<T>(HttpMethod method, string path, object body, long? revision)
        {
            using var request = new HttpRequestMessage(method, path)
            {
                Content = JsonContent.Create(body, options: ReadOptions),
            };
            if (revision is { } known)
            {
                request.Headers.TryAddWithoutValidation("If-Match", Problems.ETag(known));
            }

            using var response = await http.SendAsync(request);
            return response.IsSuccessStatusCode
                ? (await response.Content.ReadFromJsonAsync<T>(ReadOptions))!
                : throw new InvalidOperationException(
                    $"{method} {path} was answered {(int)response.StatusCode}: {await response.Content.ReadAsStringAsync()}"
                );
        }
    }
}

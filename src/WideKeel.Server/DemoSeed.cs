using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Demo;
using WideKeel.Server.Content;
using WideKeel.Server.Disposition;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Server.Retention;
using WideKeel.Server.SignIn;
using WideKeel.Store.Jobs;

namespace WideKeel.Server;

/// <summary>
/// Makes the demo the way people would: files on a share, then everything through the product's own API, each step by the person whose work it
/// is. So the demo's ledger is a true one.
/// </summary>
public static class DemoSeed
{
    private const string Marker = "demo.json";

    /// <summary>So many weeks before the day of the demo it was set up.</summary>
    private const int WeeksBefore = 10;

    public static IReadOnlyList<DemoAccount> Accounts { get; } =
        [.. Scenario.People.Select(p => new DemoAccount(p.Name, p.Mail, $"{RoleWords(p.Role)} · {p.Unit}", Scenario.Password))];

    /// <summary>Makes the demo unless it stands already with the same seed, scale and day. A folder that holds something else is left alone.</summary>
    public static async Task EnsureAsync(WideKeelOptions options, int seed, int scale, bool fresh, Action<string> say)
    {
        var marker = Path.Combine(options.DataFolder, Marker);
        var wanted = JsonSerializer.Serialize(new { seed, scale, finished = true });
        if (!fresh && File.Exists(marker) && await File.ReadAllTextAsync(marker) == wanted)
        {
            return;
        }

        if (Directory.Exists(options.DataFolder) && Directory.EnumerateFileSystemEntries(options.DataFolder).Any())
        {
            if (!File.Exists(marker))
            {
                throw new IOException($"{options.DataFolder} holds something that is not a demo; name another folder with --data.");
            }

            Directory.Delete(options.DataFolder, recursive: true);
        }

        Directory.CreateDirectory(options.DataFolder);
        await File.WriteAllTextAsync(marker, "{}");
        var share = ShareFolder(options);
        var zone = DateTimeZoneProviders.Tzdb[Scenario.Zone];
        say("Writing the files of Tarnholm Ferries …");
        var files = new Documents(seed, options.Clock.GetCurrentInstant().InZone(zone).Date).Write(share, scale);
        var story = new Story(options.Clock.GetCurrentInstant().InZone(zone).Date);
        files += new Documents(seed + 1, options.Clock.GetCurrentInstant().InZone(zone).Date).WriteMail(MailFolder(options), scale);
        files += story.WriteShare(share) + story.WriteMail(MailFolder(options)) + story.WriteWorkspace(WorkspaceFolder(options));
        say($"{files} files and messages written; taking stock and setting up …");
        var clock = new StoryClock(options.Clock) { Behind = Duration.FromDays(WeeksBefore * 7) };
        await using (var app = WideKeelHost.Create(options with { Urls = "http://127.0.0.1:0", SignInsAMinute = 1000, Clock = clock }))
        {
            await app.StartAsync();
            await SetUpAsync(new Uri(app.Urls.First()), share, MailFolder(options), WorkspaceFolder(options), seed, clock);
            await app.StopAsync();
        }

        await File.WriteAllTextAsync(marker, wanted);
    }

    /// <summary>The demo's share lies beside the data folder, because a share may not lie within it.</summary>
    public static string ShareFolder(WideKeelOptions options) => Beside(options, "share");

    public static string MailFolder(WideKeelOptions options) => Beside(options, "mail");

    public static string WorkspaceFolder(WideKeelOptions options) => Beside(options, "workspace");

    private static string Beside(WideKeelOptions options, string what) => Path.Combine(Path.GetDirectoryName(Path.TrimEndingDirectorySeparator(options.DataFolder))!, $"{Path.GetFileName(Path.TrimEndingDirectorySeparator(options.DataFolder))}-{what}");

    private static async Task SetUpAsync(Uri address, string share, string mail, string workspace, int seed, StoryClock clock)
    {
        var administrator = Scenario.People.First(p => p.Role == Role.Administrator);
        using var setUp = await DemoClient.ConnectAsync(address);
        await setUp.PostAsync<Done>("set-up", new SetUpRequest(Scenario.Organisation, Scenario.Zone, Scenario.FiscalYearEnd, administrator.Name, administrator.Mail, Scenario.Password));
        await setUp.SignInAsync(administrator.Mail);
        var units = (await setUp.GetAsync<List<UnitView>>("units")).ToDictionary(u => u.Name, u => u.Id);
        foreach (var (name, parent) in Scenario.Units)
        {
            units[name] = (await setUp.PostAsync<UnitView>("units", new NewUnit(name, units[parent]))).Id;
        }

        foreach (var person in Scenario.People.Where(p => p != administrator))
        {
            await setUp.PostAsync<PersonView>("people", new NewPerson(person.Name, person.Mail, Scenario.Password, [new(person.Role, units[person.Unit])]));
        }

        // Set-up makes the first person a records manager too; in the demo these are different people.
        var first = (await setUp.GetAsync<List<PersonView>>("people")).Single(p => p.Mail == administrator.Mail);
        await setUp.PutAsync<PersonView>($"people/{first.Id}", new PersonChange(first.Name, true, [new(Role.Administrator, units[administrator.Unit])]), first.Revision);

        await setUp.PostAsync<Done>("sources", new NewSource(Scenario.ShareName, share));
        await setUp.PostAsync<Done>("sources", new NewSource(Scenario.MailName, mail, Core.Content.SourceKind.Mail));
        await setUp.PostAsync<Done>("sources", new NewSource(Scenario.WorkspaceName, workspace, Core.Content.SourceKind.Workspace));
        await setUp.PostAsync<DirectoryImported>("directory", new DirectoryImport(Story.People(seed), Story.Groups()));
        await setUp.WaitForJobsAsync();
        var found = (await setUp.GetAsync<List<SourceView>>("sources")).SelectMany(s => s.Containers).ToList();
        foreach (var container in found)
        {
            var unit = Scenario.Containers.SingleOrDefault(c => c.Name == container.Name)?.Unit ?? Scenario.Mailboxes.SingleOrDefault(m => m.Name == container.Name)?.Unit ?? Scenario.Libraries.Single(l => l.Name == container.Name).Unit;
            await setUp.PutAsync<Done>($"containers/{container.Id}", new ContainerChange(units[unit]), container.Revision);
        }

        using var ines = await DemoClient.ConnectAsync(address);
        await ines.SignInAsync(Scenario.People[0].Mail);
        using var tobias = await DemoClient.ConnectAsync(address);
        await tobias.SignInAsync(Scenario.People[1].Mail);
        var containers = found.ToDictionary(c => c.Name, c => c.Id);
        await ines.PostAsync<Done>("authorities/library", new { });
        foreach (var (code, definition) in Scenario.Authorities)
        {
            await ines.PostAsync<AuthorityView>("authorities", new NewAuthority(code, definition));
        }

        foreach (var type in Scenario.EventTypes)
        {
            await ines.PostAsync<EventTypeView>("event-types", new EventTypeText(type.Name, type.Title, type.Description));
        }

        foreach (var told in Scenario.Events)
        {
            await ines.PostAsync<EventView>("events", new NewEvent(told.Type, told.Subject, LocalDatePattern.Iso.Parse(told.Date).Value, told.Note));
        }

        Dictionary<string, long> series = [];
        foreach (var planned in Scenario.Series)
        {
            var detail = await ines.PostAsync<SeriesDetail>("series", new NewSeries(planned.Code, units[planned.Unit], planned.Definition));
            series[planned.Code] = detail.Row.Id;
            long[] own = [.. Scenario.Containers.Where(c => c.Series == planned.Code).Select(c => containers[c.Name]), .. Scenario.Mailboxes.Where(m => m.Series == planned.Code).Select(m => containers[m.Name]), .. Scenario.Libraries.Where(l => l.Series == planned.Code).Select(l => containers[l.Name])];
            if (own.Length > 0)
            {
                var filing = new Filing(new ItemQuery { Container = own }, detail.Row.Id);
                var preview = await ines.PostAsync<ConsequencesView>("filings/consequences", filing);
                await ines.PostAsync<ConsequencesView>("filings", filing with { Fingerprint = preview.Fingerprint });
            }

            if (planned.InForce)
            {
                var consequences = await ines.PostAsync<ConsequencesView>($"series/{detail.Row.Id}/consequences", planned.Definition);
                await ines.PostAsync<SeriesDetail>($"series/{detail.Row.Id}/activation", new Activation(consequences.Fingerprint, "First schedule of Tarnholm Ferries."), detail.Revision);
            }
        }

        foreach (var (library, _, code) in Scenario.Libraries.Where(l => l.Series is not null))
        {
            await ines.PutAsync<Done>("filing-defaults", new NewFilingDefault(containers[library], "", series[code!]));
        }

        foreach (var planned in Scenario.Blankets)
        {
            var reach = new ReachDefinition(planned.Query, [.. planned.Containers.Select(c => containers[c])], []);
            var blanket = await ines.PostAsync<BlanketView>("blankets", new NewBlanket(planned.Name, units[planned.Unit], new("", reach, planned.From, planned.Keep, planned.Destroys, planned.DestroyAfter)));
            if (planned.InForce)
            {
                var consequences = await ines.PostAsync<BlanketConsequences>($"blankets/{blanket.Id}/consequences", blanket.Draft!);
                await ines.PostAsync<BlanketView>($"blankets/{blanket.Id}/activation", new Activation(consequences.Consequences.Fingerprint, "First schedule of Tarnholm Ferries."), blanket.Revision);
            }
        }

        foreach (var rule in Scenario.FilingRules)
        {
            WantedKind[] kinds = rule.Kind is null ? [] : [new(rule.Kind, Core.Sensitive.Confidence.Likely, 1)];
            await ines.PostAsync<FilingRuleView>("filing-rules", new FilingRuleText(rule.Name, series[rule.Series], new(rule.Query, kinds), rule.Priority));
        }

        await ines.PostAsync<Done>("filing-suggestions/learning", new { });

        await ines.WaitForJobsAsync();
        await DemoMatters.MakeAsync(address, containers, units, clock);
        clock.Behind = Duration.Zero;
        foreach (var source in await ines.GetAsync<List<SourceView>>("sources"))
        {
            await ines.PostAsync<JobView>($"sources/{source.Id}/scans", new { });
        }

        await ines.WaitForJobsAsync();

        // One batch is finished, one waits for its second signature, the rest of the docket is as it falls due.
        var done = await tobias.PostAsync<BatchView>("batches", new NewBatch(series["PPL-020"]));
        await LookThroughAsync(tobias, done.Id, 49);
        done = await tobias.PostAsync<BatchView>($"batches/{done.Id}/sign-offs", new Signing("Compared with the payroll system; nothing open."), done.Revision);
        await ines.PostAsync<BatchView>($"batches/{done.Id}/sign-offs", new Signing("Agreed."), done.Revision);
        await ines.WaitForJobsAsync();
        var waiting = await tobias.PostAsync<BatchView>("batches", new NewBatch(series["VES-010"]));
        await LookThroughAsync(tobias, waiting.Id, 24);
        await tobias.PostAsync<BatchView>($"batches/{waiting.Id}/sign-offs", new Signing("Pages checked against the vessels' list."), waiting.Revision);
        await ines.WaitForJobsAsync();
    }

    private static async Task LookThroughAsync(DemoClient who, long batch, int lines)
    {
        foreach (var line in (await who.GetAsync<LinePage>($"batches/{batch}/lines?limit={lines}")).Lines)
        {
            await who.PostAsync<Done>($"batches/{batch}/lines/{line.Item.Id}/opened", new { });
        }
    }

    private static string RoleWords(Role role) => role switch
    {
        Role.RecordsManager => "Records manager",
        Role.Steward => "Steward",
        Role.Staff => "Staff",
        Role.Administrator => "Administrator",
        Role.Legal => "Legal",
        Role.LegalLead => "Legal lead",
        _ => throw new ArgumentOutOfRangeException(nameof(role)),
    };

    /// <summary>A person at the API: keeps the cookie and the form token.</summary>
    internal sealed class DemoClient : IDisposable
    {
        private readonly HttpClient http;

        private DemoClient(HttpClient http) => this.http = http;

        public static async Task<DemoClient> ConnectAsync(Uri address)
        {
            var client = new DemoClient(new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer() }) { BaseAddress = new Uri(address, "/api/"), Timeout = TimeSpan.FromMinutes(30) });
            client.UseToken(await client.GetAsync<SessionView>("session"));
            return client;
        }

        public async Task SignInAsync(string mail) => UseToken(await PostAsync<SessionView>("session", new SignInRequest(mail, Scenario.Password)));

        public async Task<T> GetAsync<T>(string path) => (await http.GetFromJsonAsync<T>(path, ReadOptions))!;

        public Task<T> PostAsync<T>(string path, object body, long? revision = null) => SendAsync<T>(HttpMethod.Post, path, body, revision);

        public Task<T> PutAsync<T>(string path, object body, long? revision = null) => SendAsync<T>(HttpMethod.Put, path, body, revision);

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
            using var request = new HttpRequestMessage(method, path) { Content = JsonContent.Create(body, options: ReadOptions) };
            if (revision is { } known)
            {
                request.Headers.TryAddWithoutValidation("If-Match", Problems.ETag(known));
            }

            using var response = await http.SendAsync(request);
            return response.IsSuccessStatusCode
                ? (await response.Content.ReadFromJsonAsync<T>(ReadOptions))!
                : throw new InvalidOperationException($"{method} {path} was answered {(int)response.StatusCode}: {await response.Content.ReadAsStringAsync()}");
        }
    }
}

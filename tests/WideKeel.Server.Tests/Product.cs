using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Microsoft.AspNetCore.Builder;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;
using NodaTime.Testing;
using WideKeel.Core.AtRest;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server;
using WideKeel.Server.Activity;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests;

/// <summary>
/// A whole running product: real host, real socket, real SQLite file, a share on disk. One organisation with two sister
/// units.
/// </summary>
public sealed class Product : IAsyncLifetime
{
    public const string Password = "quiet-harbour-12";
    private WebApplication? app;

    public string Folder { get; } = Directory.CreateTempSubdirectory("widekeel-test-").FullName;

    public string Data => Path.Combine(Folder, "data");

    /// <summary>Away from the data, as it shall be.</summary>
    public string Secrets => Path.Combine(Folder, "secrets");

    /// <summary>Folders that roots of sources must lie in, from the next start on.</summary>
    public IReadOnlyList<string> Roots { get; set; } = [];

    /// <summary>The archive as whoever has no keys sees it.</summary>
    public ArchiveFiles Archive() =>
        new(Path.Combine(Data, "archive"), Path.Combine(Folder, "open"), new RestKeyring());

    public string Share => Path.Combine(Folder, "share");

    /// <summary>Networks of proxies in front, as CIDR blocks; to be set before it is started.</summary>
    public IReadOnlyList<string> Proxies { get; init; } = [];

    /// <summary>How long a search may take, from the next start on.</summary>
    public TimeSpan LongestSearch { get; set; } = TimeSpan.FromMinutes(5);

    /// <summary>What sessions in browsers are timed by, from the next start on.</summary>
    public TimeProvider WallClock { get; set; } = TimeProvider.System;

    /// <summary>The second place of the heads, from the next start on.</summary>
    public string? HeadsTo { get; set; }

    public string DatabaseFile => Path.Combine(Data, "widekeel.db");

    public FakeClock Clock { get; } = new(Instant.FromUtc(2026, 6, 15, 8, 0));

    /// <summary>How often one address may try to sign in within a minute.</summary>
    public int SignInsAMinute { get; set; } = 10_000;

    /// <summary>Parts beyond the product's own; to be set before it is started.</summary>
    public IReadOnlyList<IPart> MoreParts { get; init; } = [];

    public Uri Address => new(app!.Urls.First());

    public IServiceProvider Services => app!.Services;

    /// <summary>Lets a test see whether what was stopped is let go.</summary>
    public WeakReference Host => new(app);

    public Dictionary<string, long> Units { get; } = [];

    private static readonly SemaphoreSlim Making = new(1, 1);
    private static string? made;
    private static Dictionary<string, long> madeUnits = [];

    /// <summary>Set up once for all tests, through the API; each test starts on a copy of its own.</summary>
    public async ValueTask InitializeAsync()
    {
        Directory.CreateDirectory(Share);
        await Making.WaitAsync();
        try
        {
            if (made is null)
            {
                await StartAsync();
                await SetUpAsync();
                await using (var db = Database())
                {
                    // Nobody's mailbox is full of what came with the set-up.
                    await db.Messages.ExecuteDeleteAsync();
                }

                await StopAsync();
                madeUnits = new(Units);
                // Kept for the others, and removed with the machine's temporary files.
                var copy = Directory.CreateTempSubdirectory("widekeel-test-made-").FullName;
                if (Directory.Exists(Path.Combine(Data, "mail-sink")))
                {
                    Directory.Delete(Path.Combine(Data, "mail-sink"), recursive: true);
                }

                Copy(Data, Path.Combine(copy, "data"));
                Copy(Secrets, Path.Combine(copy, "secrets"));
                made = copy;
            }
            else
            {
                Copy(made, Folder);
            }
        }
        finally
        {
            Making.Release();
        }

        foreach (var (name, id) in madeUnits)
        {
            Units[name] = id;
        }

        await StartAsync();
    }

    private static void Copy(string from, string to)
    {
        foreach (var file in Directory.EnumerateFiles(from, "*", SearchOption.AllDirectories))
        {
            var target = Path.Combine(to, Path.GetRelativePath(from, file));
            Directory.CreateDirectory(Path.GetDirectoryName(target)!);
            File.Copy(file, target);
        }
    }

    private async Task SetUpAsync()
    {
        using var first = await Api.ConnectAsync(Address);
        await first.PostOk(
            "set-up",
            new
            {
                organisation = "Tarn Lines",
                zone = "Etc/UTC",
                fiscalYearEnd = "09-30",
                administratorName = "Admin",
                administratorMail = "admin@tarn.example",
                password = Password,
                code = Services.GetRequiredService<SetUpCode>().Word,
            }
        );
        using var admin = await SignInAsync("admin");
        await admin.Put("inner-networks", new { networks = "127.0.0.0/8" });
        Units["Tarn Lines"] = (await admin.GetOk("units"))[0].GetProperty("id").GetInt64();
        foreach (var (name, parent) in new[] { ("Fleet", "Tarn Lines"), ("Northern", "Fleet"), ("Island", "Fleet") })
        {
            Units[name] = (await admin.PostOk("units", new { name, parentId = Units[parent] }))
                .GetProperty("id")
                .GetInt64();
        }

        foreach (
            var (name, role, unit) in new[]
            {
                ("ines", "recordsManager", "Tarn Lines"),
                ("tobias", "recordsManager", "Tarn Lines"),
                ("maren", "steward", "Island"),
                ("edvin", "steward", "Northern"),
                ("pia", "staff", "Island"),
                ("vera", "legalLead", "Tarn Lines"),
                ("nils", "legal", "Tarn Lines"),
                ("sunniva", "securityAnalyst", "Tarn Lines"),
                ("mikkel", "auditManager", "Tarn Lines"),
            }
        )
        {
            await AddPersonAsync(admin, name, role, unit);
        }

        await AddPersonAsync(admin, "jonas", "administrator");
    }

    public async Task StartAsync()
    {
        app = WideKeelHost.Create(
            new WideKeelOptions
            {
                DataFolder = Data,
                SecretsFolder = Secrets,
                Roots = Roots,
                // The first one sets up over the open wire; its copies may lie behind a proxy.
                Proxies = [.. made is null ? [] : Proxies.Select(IPNetwork.Parse)],
                WallClock = WallClock,
                Urls = "http://127.0.0.1:0",
                Clock = Clock,
                SignInsAMinute = SignInsAMinute,
                MailSink = true,
                MoreParts = MoreParts,
                PasswordRounds = 1_000,
                HeadsTo = HeadsTo,
                LongestSearch = LongestSearch,
            }
        );
        await app.StartAsync();
    }

    public async Task StopAsync()
    {
        await app!.StopAsync();
        await app.DisposeAsync();
        app = null;
        SqliteConnection.ClearAllPools();
    }

    public async ValueTask DisposeAsync()
    {
        if (app is not null)
        {
            await StopAsync();
        }

        // Not Directory.Delete: it cannot remove names that are no UTF-8, and one test makes one.
        using var remove = System.Diagnostics.Process.Start("rm", ["-rf", Folder]);
        await remove.WaitForExitAsync();
    }

    public async Task<Api> SignInAsync(string name)
    {
        var api = await Api.ConnectAsync(Address);
        (await api.Post("session", new { mail = $"{name}@tarn.example", password = Password })).Status.ShouldBe(
            HttpStatusCode.OK
        );
        await api.RenewTokenAsync();
        return api;
    }

    /// <summary>What somebody's cookies read, in a browser that has nothing else: a copy, or after a restart.</summary>
    public async Task<Answer> ReadWithAsync(string cookies, string path)
    {
        using var browser = new HttpClient(new SocketsHttpHandler { UseCookies = false });
        using var request = new HttpRequestMessage(HttpMethod.Get, new Uri(Address, $"/api/{path}"));
        request.Headers.Add("Cookie", cookies);
        return await Api.AnswerAsync(await browser.SendAsync(request));
    }

    /// <summary>Writes a file whose document says when it was made.</summary>
    public string Write(string path, string created, string body = "text", string extra = "")
    {
        var file = Path.Combine(Share, path);
        Directory.CreateDirectory(Path.GetDirectoryName(file)!);
        File.WriteAllText(file, $"---\ncreated: {created}\n{extra}---\n{body}\n");
        return file;
    }

    /// <summary>
    /// Connects the share if it is not yet, scans it, and gives each container that is named after a unit to it.
    /// Container name → id.
    /// </summary>
    public async Task<Dictionary<string, long>> ScanAsync()
    {
        using var admin = await SignInAsync("jonas");
        var sources = await admin.GetOk("sources");
        if (sources.GetArrayLength() == 0)
        {
            await admin.PostOk("sources", new { name = "Share", root = Share });
        }
        else
        {
            await admin.PostOk($"sources/{sources[0].GetProperty("id").GetInt64()}/scans", new { });
        }

        await admin.WaitForJobsAsync();
        Dictionary<string, long> containers = [];
        foreach (var container in (await admin.GetOk("sources"))[0].GetProperty("containers").EnumerateArray())
        {
            var name = container.GetProperty("name").GetString()!;
            var id = containers[name] = container.GetProperty("id").GetInt64();
            if (Units.TryGetValue(name, out var unit) && container.GetProperty("unitId").GetInt64() != unit)
            {
                (
                    await admin.Put(
                        $"containers/{id}",
                        new { unitId = unit },
                        container.GetProperty("revision").GetInt64()
                    )
                ).Status.ShouldBe(HttpStatusCode.OK);
            }
        }

        return containers;
    }

    /// <summary>What the product does in a morning, if this day's was not gone through yet.</summary>
    public Task RunDayAsync() =>
        Services
            .GetServices<IHostedService>()
            .OfType<DailyRun>()
            .Single()
            .RunIfDueAsync(TestContext.Current.CancellationToken);

    /// <summary>The directory outside says this, and the product reads it.</summary>
    public async Task WriteDirectoryAsync(DirectoryState state)
    {
        var directory = Services.GetRequiredService<OrganisationDirectory>();
        directory.Outside.Write(state);
        await directory.PullAsync(Services.GetRequiredService<Writer>());
    }

    /// <summary>Somebody with one role over a unit; their address is their name at tarn.example.</summary>
    public async Task AddPersonAsync(Api admin, string name, string role, string unit = "Tarn Lines")
    {
        var mail = $"{name.ToLowerInvariant()}@tarn.example";
        var added = await admin.PostOk(
            "people",
            new
            {
                name,
                mail,
                remits = new[] { new { role, unitId = Units[unit] } },
            }
        );
        await ChoosePasswordAsync(added.GetProperty("person").GetProperty("id").GetInt64(), mail, Password);
    }

    /// <summary>Chooses a password as the person would, by the link in their mailbox.</summary>
    public async Task ChoosePasswordAsync(long person, string mail, string password)
    {
        using var anybody = await Api.ConnectAsync(Address);
        var secret = await LinkAsync(LinkKind.Invitation, person, mail);
        await anybody.PostOk($"invitations/{secret}", new { password });
    }

    /// <summary>A link as a message brings it.</summary>
    /// <returns>Its secret.</returns>
    public async Task<string> LinkAsync(LinkKind kind, long subject, string mail) =>
        (
            await Services
                .GetRequiredService<Writer>()
                .RunAsync<string>(
                    LedgerActor.Job("test", null),
                    async session => PersonLinks.Issue(session, (kind, subject), mail, Duration.FromDays(400))
                )
        ).Value;

    /// <summary>The code that is mailed to the holder of a link.</summary>
    public async Task<string> CodeAsync(string secret)
    {
        var links = Services.GetRequiredService<PersonLinks>();
        return (
            await Services
                .GetRequiredService<Writer>()
                .RunAsync<string>(
                    LedgerActor.Job("test", null),
                    async session =>
                        links.NewCode(
                            (await links.FindAsync(session.Db, secret, TestContext.Current.CancellationToken))!
                        )
                )
        ).Value;
    }

    /// <summary>Types the code of a link, so that this browser may decide by it.</summary>
    public async Task<string> ProveAsync(Api who, string secret)
    {
        await who.PostOk($"links/{secret}/entrance", new { code = await CodeAsync(secret) });
        return secret;
    }

    /// <summary>Waits for what a job or the mailer does by itself.</summary>
    public static async Task UntilAsync(Func<Task<bool>> condition)
    {
        for (var i = 0; i < 600 && !await condition(); i++)
        {
            await Task.Delay(50, TestContext.Current.CancellationToken);
        }

        (await condition()).ShouldBeTrue();
    }

    /// <summary>An administrator resets somebody's password.</summary>
    public static async Task<Answer> ResetPasswordAsync(Api admin, string name)
    {
        var person = (await admin.GetOk("people"))
            .EnumerateArray()
            .Single(p => p.GetProperty("name").GetString() == name);
        return await admin.Post($"people/{person.GetProperty("id").GetInt64()}/invitation", new { });
    }

    /// <summary>Changes somebody's name or roles; without roles given they keep theirs.</summary>
    public static async Task<Answer> ChangePersonAsync(
        Api admin,
        string name,
        string? rename = null,
        object? remits = null,
        bool active = true
    )
    {
        var person = (await admin.GetOk("people"))
            .EnumerateArray()
            .Single(p => p.GetProperty("name").GetString() == name);
        return await admin.Put(
            $"people/{person.GetProperty("id").GetInt64()}",
            new
            {
                name = rename ?? name,
                active,
                remits = remits
                    ?? person
                        .GetProperty("remits")
                        .EnumerateArray()
                        .Select(r => new { role = r.GetProperty("role"), unitId = r.GetProperty("unitId") }),
            },
            person.GetProperty("revision").GetInt64()
        );
    }

    /// <summary>A matter over the whole organisation, led by whoever opens it. Returns its id.</summary>
    public async Task<long> OpenMatterAsync(Api who, string name = "Collision") => (
            await who.PostOk(
                "matters",
                new
                {
                    name,
                    description = "",
                    kind = "litigation",
                    unitId = Units["Tarn Lines"],
                }
            )
        ).GetProperty("id").GetInt64();

    public static object Definition(
        string title = "Voyage reports",
        string period = "P5Y",
        string trigger = "created",
        string cutoff = "none",
        string[]? stages = null,
        string grade = "kept",
        bool ratchet = false,
        string atEnd = "signOff",
        object[]? clauses = null,
        string join = "later",
        string[]? authorities = null
    ) =>
        new
        {
            title,
            description = "",
            guidance = "",
            descriptors = new
            {
                function = "Vessels",
                activity = "",
                subActivity = "",
                department = "",
                tags = Array.Empty<string>(),
            },
            owner = "",
            authorities = authorities ?? [],
            permanent = false,
            join,
            clauses = clauses
                ??
                [
                    new
                    {
                        trigger,
                        cutoff,
                        period,
                    },
                ],
            atEnd,
            grade,
            ratchet,
            graceDays = 90,
            stages = (stages ?? ["recordsManager", "recordsManager"]).Select(role => new { role }),
        };

    /// <summary>Files the items of some containers by hand, with the consequences that were shown; null takes them off.</summary>
    public static async Task FileAsync(Api who, long[] containers, long? series)
    {
        var filing = new { selection = new { container = containers }, seriesId = series };
        var preview = await who.PostOk("filings/consequences", filing);
        await who.PostOk(
            "filings",
            new
            {
                filing.selection,
                filing.seriesId,
                fingerprint = preview.GetProperty("fingerprint").GetString(),
                why = "test",
            }
        );
    }

    /// <summary>A series in force with the items of some containers filed under it. Returns its id.</summary>
    public async Task<long> SeriesInForceAsync(Api who, string code, string unit, long[] containers, object definition)
    {
        var made = await who.PostOk(
            "series",
            new
            {
                code,
                unitId = Units[unit],
                draft = definition,
            }
        );
        var id = made.GetProperty("row").GetProperty("id").GetInt64();
        // No container would be no condition: everything.
        if (containers.Length > 0)
        {
            await FileAsync(who, containers, id);
        }

        await ActivateAsync(who, id, definition);
        await who.WaitForJobsAsync();
        return id;
    }

    /// <summary>A blanket in force. Returns its id.</summary>
    public async Task<long> BlanketInForceAsync(Api who, string name, string unit, object definition)
    {
        var made = await who.PostOk(
            "blankets",
            new
            {
                name,
                unitId = Units[unit],
                draft = definition,
            }
        );
        var id = made.GetProperty("id").GetInt64();
        var fingerprint = (await who.PostOk($"blankets/{id}/consequences", definition))
            .GetProperty("consequences")
            .GetProperty("fingerprint")
            .GetString();
        var answer = await who.Post(
            $"blankets/{id}/activation",
            new { fingerprint, why = "test" },
            made.GetProperty("revision").GetInt64()
        );
        answer.Status.ShouldBe(HttpStatusCode.OK, answer.Body.ToString());
        await AgreeAsync();
        await who.WaitForJobsAsync();
        return id;
    }

    /// <summary>The second records manager agrees to what waits for somebody to agree.</summary>
    public async Task AgreeAsync()
    {
        using var tobias = await SignInAsync("tobias");
        foreach (
            var waiting in (await tobias.GetOk("proposals"))
                .EnumerateArray()
                .Where(p => p.GetProperty("mayNotDecide").ValueKind == JsonValueKind.Null)
        )
        {
            var answer = await tobias.Post(
                $"proposals/{waiting.GetProperty("id").GetInt64()}/decision",
                new { agree = true, why = "test" },
                waiting.GetProperty("revision").GetInt64()
            );
            answer.Status.ShouldBe(HttpStatusCode.OK, answer.Body.ToString());
        }
    }

    public static async Task ActivateAsync(Api who, long series, object definition)
    {
        var consequences = await who.PostOk($"series/{series}/consequences", definition);
        var revision = (await who.GetOk($"series/{series}")).GetProperty("revision").GetInt64();
        var answer = await who.Post(
            $"series/{series}/activation",
            new
            {
                fingerprint = consequences.GetProperty("fingerprint").GetString(),
                why = "test",
                confirmed = true,
            },
            revision
        );
        answer.Status.ShouldBe(HttpStatusCode.OK, answer.Body.ToString());
    }

    public static async Task<Answer> SignAsync(Api who, long batch, string comment = "agreed")
    {
        var revision = (await who.GetOk($"batches/{batch}")).GetProperty("revision").GetInt64();
        return await who.Post($"batches/{batch}/sign-offs", new { comment }, revision);
    }

    public WideKeelDb Database() =>
        Services.GetRequiredService<Microsoft.EntityFrameworkCore.IDbContextFactory<WideKeelDb>>().CreateDbContext();
}

/// <param name="Body">Undefined when there was none.</param>
public readonly record struct Answer(HttpStatusCode Status, JsonElement Body, HttpResponseMessage Response)
{
    /// <summary>What was sent, whatever it is.</summary>
    public string? Text { get; init; }

    public string? Problem =>
        Body.ValueKind == JsonValueKind.Object && Body.TryGetProperty("type", out var type)
            ? type.GetString()!.Split(':')[^1]
            : null;
}

/// <summary>Somebody at the API, with cookie and form token.</summary>
public sealed class Api : IDisposable
{
    private readonly HttpClient http;

    private Api(HttpClient http, CookieContainer cookies) => (this.http, Cookies) = (http, cookies);

    public CookieContainer Cookies { get; }

    /// <param name="from">What a proxy in front would say of the other side's address; null where there is none.</param>
    public static async Task<Api> ConnectAsync(Uri address, string? from = null)
    {
        var cookies = new CookieContainer();
        HttpMessageHandler sockets = new SocketsHttpHandler { CookieContainer = cookies, AllowAutoRedirect = false };
        var api = new Api(
            new HttpClient(from is null ? sockets : new Proxy(sockets, cookies, from))
            {
                BaseAddress = new Uri(address, "/api/"),
            },
            cookies
        );
        await api.RenewTokenAsync();
        return api;
    }

    /// <summary>A proxy that ends TLS: it says whence a request came, and its cookies are those of a page over TLS.</summary>
    private sealed class Proxy(HttpMessageHandler inner, CookieContainer cookies, string from)
        : DelegatingHandler(inner)
    {
        protected override async Task<HttpResponseMessage> SendAsync(
            HttpRequestMessage request,
            CancellationToken cancellationToken
        )
        {
            request.Headers.Add("X-Forwarded-For", from);
            request.Headers.Add("X-Forwarded-Proto", "https");
            request.Headers.Add("X-Forwarded-Host", "records.example");
            var outside = new UriBuilder(request.RequestUri!) { Scheme = "https" }.Uri;
            if (cookies.GetCookieHeader(outside) is { Length: > 0 } kept)
            {
                request.Headers.Remove("Cookie");
                request.Headers.Add("Cookie", kept);
            }

            var answer = await base.SendAsync(request, cancellationToken);
            foreach (
                var cookie in answer.Headers.TryGetValues("Set-Cookie", out var set) ? set : Enumerable.Empty<string>()
            )
            {
                cookies.SetCookies(outside, cookie);
            }

            return answer;
        }
    }

    public HttpClient Http => http;

    public async Task RenewTokenAsync()
    {
        var session = await GetOk("session");
        http.DefaultRequestHeaders.Remove("X-XSRF-TOKEN");
        http.DefaultRequestHeaders.Add("X-XSRF-TOKEN", session.GetProperty("token").GetString());
    }

    public Task<Answer> Get(string path) => SendAsync(HttpMethod.Get, path, null, null);

    public Task<Answer> Post(string path, object body, long? revision = null) =>
        SendAsync(HttpMethod.Post, path, body, revision);

    public Task<Answer> Put(string path, object body, long? revision = null) =>
        SendAsync(HttpMethod.Put, path, body, revision);

    public Task<Answer> Delete(string path, long? revision = null) =>
        SendAsync(HttpMethod.Delete, path, null, revision);

    public async Task<JsonElement> GetOk(string path) => Ok(await Get(path), path);

    public async Task<JsonElement> PostOk(string path, object body) => Ok(await Post(path, body), path);

    /// <summary>Until no job waits or runs.</summary>
    public Task WaitForJobsAsync() =>
        WaitForAsync(
            "jobs",
            jobs => !jobs.EnumerateArray().Any(j => j.GetProperty("state").GetString() is "queued" or "running")
        );

    /// <summary>
    /// Until what stands there is as wanted. Asks again in short steps, because what it waits for is the product's own
    /// state.
    /// </summary>
    public async Task<JsonElement> WaitForAsync(string path, Func<JsonElement, bool> wanted)
    {
        for (var i = 0; i < 6_000; i++)
        {
            var found = await GetOk(path);
            if (wanted(found))
            {
                return found;
            }

            await Task.Delay(20);
        }

        throw new TimeoutException($"{path} did not become what was waited for.");
    }

    public async Task<Answer> SendAsync(HttpMethod method, string path, object? body, long? revision)
    {
        using var request = new HttpRequestMessage(method, path);
        if (body is not null)
        {
            request.Content = JsonContent.Create(body);
        }

        if (revision is not null)
        {
            request.Headers.TryAddWithoutValidation("If-Match", $"\"{revision}\"");
        }

        return await AnswerAsync(await http.SendAsync(request));
    }

    internal static async Task<Answer> AnswerAsync(HttpResponseMessage response)
    {
        var text = await response.Content.ReadAsStringAsync();
        var json = response.Content.Headers.ContentType?.MediaType is "application/json" or "application/problem+json";
        return new(
            response.StatusCode,
            json && text.Length > 0 ? JsonDocument.Parse(text).RootElement : default,
            response
        )
        {
            Text = text,
        };
    }

    public void Dispose() => http.Dispose();

    private static JsonElement Ok(Answer answer, string path)
    {
        answer.Status.ShouldBe(HttpStatusCode.OK, $"{path}: {answer.Body}");
        return answer.Body;
    }
}

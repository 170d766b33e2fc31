using System.Globalization;
using System.Net;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.SignalR;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.AtRest;
using WideKeel.Core.Ledger;
using WideKeel.Server.Content;
using WideKeel.Server.Disposition;
using WideKeel.Server.Jobs;
using WideKeel.Server.Ledger;
using WideKeel.Server.Matters;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Server.Retention;
using WideKeel.Server.Today;
using WideKeel.Server.Workspace;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Ledger;
using WideKeel.Store.People;

namespace WideKeel.Server;

/// <summary>Puts the product together: the kernel's services, the door, and the parts with theirs.</summary>
public static class WideKeelHost
{
    /// <summary>As large as a request may be where an address does not take more.</summary>
    public const long MostRequestBytes = 2_000_000;

    /// <summary>Everything but a listening socket; starting it migrates the database first.</summary>
    public static WebApplication Create(WideKeelOptions options)
    {
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions { ContentRootPath = AppContext.BaseDirectory, WebRootPath = "wwwroot" }
        );
        builder.WebHost.UseUrls(options.Urls);
        builder.WebHost.ConfigureKestrel(kestrel =>
            (kestrel.Limits.MaxRequestBodySize, kestrel.AddServerHeader) = (MostRequestBytes, false)
        );
        ProcessLimits.MakeFilesPrivate();
        builder.Logging.SetMinimumLevel(LogLevel.Warning);
        builder.Logging.AddFilter("Microsoft.EntityFrameworkCore", LogLevel.Error);
        // Both say on every start what docs/operating.md says once.
        builder.Logging.AddFilter("Microsoft.AspNetCore.DataProtection", LogLevel.Error);
        builder.Logging.AddFilter("Microsoft.AspNetCore.Antiforgery", LogLevel.Error);
        AddServices(builder.Services, options);
        var app = builder.Build();
        try
        {
            Prepare(app.Services);
        }
        catch
        {
            // What it took, such as the lock on the folder, is free again.
            ((IDisposable)app).Dispose();
            throw;
        }

        MapPipeline(app);
        return app;
    }

    /// <summary>The name of the moment in the cookie at which its session began.</summary>
    private const string Begun = "begun";

    /// <summary>A session in which nobody asks for anything is over after this time.</summary>
    private static readonly TimeSpan Idle = TimeSpan.FromMinutes(60);

    /// <summary>The wall clock counts here, as it does for the browser that keeps the cookie.</summary>
    private static readonly TimeSpan Longest = SessionEndpoints.Longest.ToTimeSpan();

    /// <summary>The services alone, for commands that work without the web.</summary>
    public static IServiceCollection AddServices(IServiceCollection services, WideKeelOptions options)
    {
        services.AddSingleton(options);
        services.AddSingleton(options.Clock);
        services.AddDbContext<WideKeelDb>(
            db => db.UseWideKeel(options.DatabaseFile),
            ServiceLifetime.Scoped,
            ServiceLifetime.Singleton
        );
        services.AddDbContextFactory<WideKeelDb>(db => db.UseWideKeel(options.DatabaseFile));
        services.AddSingleton(_ => Heads.Open(options.DataFolder, LedgerReader.HasEntries(options.DatabaseFile)));
        services
            .AddSingleton<Troubles>()
            .AddSingleton<FolderLock>()
            .AddSingleton<OpenDatabase>()
            .AddSingleton<StoredSecrets>()
            .AddSingleton<OutboundGuard>()
            .AddSingleton<QueryNames>();
        services.AddSingleton<Writer>();
        services.AddSingleton<RestKeyring>();
        services.AddSingleton(s => RestKeyFiles.In(options, s.GetRequiredService<RestKeyring>()));
        services.AddSingleton<OrganisationCalendar>();
        services.AddScoped<Caller>();
        AddPeople(services, options);
        services.AddAntiforgery(antiforgery =>
        {
            antiforgery.HeaderName = "X-XSRF-TOKEN";
            antiforgery.Cookie.Name = options.CookieName("widekeel-form");
            antiforgery.Cookie.SecurePolicy = options.CookiePolicy;
            antiforgery.Cookie.SameSite = SameSiteMode.Strict;
        });
        services.AddHsts(hsts => hsts.MaxAge = TimeSpan.FromDays(365));
        services.AddSingleton<AttemptLimit>();
        services.Configure<RouteHandlerOptions>(routes => routes.ThrowOnBadRequest = true);
        services.AddSignalR().AddJsonProtocol(json => Json.Configure(json.PayloadSerializerOptions));
        services.AddResponseCompression(compression => compression.EnableForHttps = true);
        services.AddOpenApi("v1", ApiDescription.Configure);
        // After the description, which sets a resolver of its own in front of what is there.
        services.ConfigureHttpJsonOptions(json => Json.Configure(json.SerializerOptions));
        foreach (var part in Parts.All(options))
        {
            Parts.Add(services, part, options);
        }

        return services;
    }

    /// <summary>Who signs in, and the keys that their cookies are made with.</summary>
    private static void AddPeople(IServiceCollection services, WideKeelOptions options)
    {
        services
            .AddDataProtection()
            .PersistKeysToFileSystem(new DirectoryInfo(Path.Combine(options.DataFolder, "cookie-keys")))
            .SetApplicationName("WideKeel")
            .ProtectedBy(KeyAtRest.Open(options.SecretsFolder));
        if (options.PasswordRounds is { } rounds)
        {
            services.Configure<PasswordHasherOptions>(hasher => hasher.IterationCount = rounds);
        }

        services
            .AddIdentityCore<Person>(identity =>
            {
                identity.Password.RequiredLength = 12;
                identity.Password.RequireNonAlphanumeric = false;
                identity.Password.RequireUppercase = false;
                identity.Password.RequireDigit = false;
                identity.User.AllowedUserNameCharacters += "'";
            })
            .AddPasswordValidator<CommonPasswords>()
            .AddEntityFrameworkStores<WideKeelDb>()
            .AddDefaultTokenProviders();
        services
            .AddAuthentication(IdentityConstants.ApplicationScheme)
            .AddCookie(IdentityConstants.ApplicationScheme, cookie => SessionCookie(cookie, options))
            .AddScheme<AuthenticationSchemeOptions, ApiKeyAuthentication>(ApiKeyAuthentication.SchemeName, null);
    }

    private static void SessionCookie(CookieAuthenticationOptions cookie, WideKeelOptions options)
    {
        var wall = options.WallClock;
        cookie.TimeProvider = wall;
        cookie.Cookie.Name = options.CookieName("widekeel");
        cookie.Cookie.HttpOnly = true;
        cookie.Cookie.SameSite = SameSiteMode.Strict;
        cookie.Cookie.SecurePolicy = options.CookiePolicy;
        cookie.ExpireTimeSpan = Idle;
        cookie.SlidingExpiration = true;
        cookie.Events.OnSigningIn = signing =>
        {
            signing.Properties.Items.TryAdd(Begun, wall.GetUtcNow().ToString("O"));
            return Task.CompletedTask;
        };
        cookie.Events.OnValidatePrincipal = seen =>
        {
            if (
                !DateTimeOffset.TryParse(seen.Properties.GetString(Begun), CultureInfo.InvariantCulture, out var begun)
                || begun + Longest < wall.GetUtcNow()
            )
            {
                seen.RejectPrincipal();
            }

            return Task.CompletedTask;
        };
    }

    /// <summary>Brings the database up to date and makes sure that it is the one whose heads lie beside it.</summary>
    public static void Prepare(IServiceProvider services)
    {
        var options = services.GetRequiredService<WideKeelOptions>();
        Directory.CreateDirectory(options.DataFolder);
        services.GetRequiredService<FolderLock>().Take(options.DataFolder);
        services.GetRequiredService<FolderLock>().Guard(options.DatabaseFile);
        services.GetRequiredService<RestKeyFiles>().Open();
        using var db = services.GetRequiredService<IDbContextFactory<WideKeelDb>>().CreateDbContext();
        if (db.Database.GetAppliedMigrations().Except(db.Database.GetMigrations()).LastOrDefault() is { } foreign)
        {
            throw new NotOursException(
                $"The database in {options.DataFolder} has tables that this version does not know (step {foreign}). "
                    + "Nothing was changed in it. Open it with the version that made it, or start with an empty folder."
            );
        }

        // Asked first, because migrating compares the whole model with its snapshot, and most starts have nothing to
        // bring up to date.
        if (db.Database.GetPendingMigrations().Any())
        {
            db.Database.Migrate();
        }

        services.GetRequiredService<OpenDatabase>().Keep(options.DatabaseFile);
        db.Database.OpenConnection();
        if (SchemaCheck.FirstMissing(db) is { } missing)
        {
            throw new NotOursException(
                $"The database in {options.DataFolder} has no {missing}: an earlier build made it. Nothing was changed "
                    + "in it. Open it with the build that made it, or start with an empty folder."
            );
        }

        FullText.Prepare((SqliteConnection)db.Database.GetDbConnection());
        if (LedgerReader.VerifyEntries(options.DatabaseFile) is { Finding: { } finding })
        {
            throw new NotOursException(
                $"The ledger in {options.DataFolder} is not sound. {finding} Nothing was started, so that nothing is "
                    + "written over the evidence. Put the right files back, or run “widekeel verify” for the details."
            );
        }

        try
        {
            services.GetRequiredService<Heads>();
        }
        catch (LedgerKeyException e)
        {
            throw new NotOursException(e.Message);
        }
    }

    private static void MapPipeline(WebApplication app)
    {
        var options = app.Services.GetRequiredService<WideKeelOptions>();
        UseTls(app, options);
        app.UseResponseCompression();
        SayWhatWentWrong(app);
        app.Use(
            (http, next) =>
            {
                var headers = http.Response.Headers;
                headers.XContentTypeOptions = "nosniff";
                headers.XFrameOptions = "DENY";
                headers["Referrer-Policy"] = "same-origin";
                headers.ContentSecurityPolicy =
                    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; font-src "
                    + "'self'; connect-src 'self'; frame-src 'self'; object-src 'none'; base-uri 'none'; "
                    + "form-action 'self'; frame-ancestors 'none'";
                return next(http);
            }
        );
        app.UseDefaultFiles();
        app.UseStaticFiles(
            new StaticFileOptions
            {
                OnPrepareResponse = file =>
                    file.Context.Response.Headers.CacheControl = file.Context.Request.Path.StartsWithSegments("/assets")
                        ? "public, max-age=31536000, immutable"
                        : "no-cache",
            }
        );
        app.UseRouting();
        app.Use(DoorAsync);
        app.MapOpenApi("/openapi/{documentName}.json").OpenToAll();

        var api = app.MapGroup("/api");
        foreach (var part in Parts.All(options))
        {
            part.MapRoutes(api);
            part.MapOutsideApi(app);
        }

        api.Map("/{**rest}", http => Problems.WriteAsync(http, Problems.NotFound("address")))
            .OpenToAll()
            .ExcludeFromDescription();
        app.MapFallbackToFile("index.html").OpenToAll();
    }

    /// <summary>What a proxy in front says is heard, and what did not come by TLS is refused where cookies are bound to it.</summary>
    private static void UseTls(WebApplication app, WideKeelOptions options)
    {
        if (options.Proxies.Count > 0)
        {
            app.UseForwardedHeaders(ProxyHeaders(options.Proxies));
        }

        if (!options.IsSecure)
        {
            return;
        }

        app.UseHsts();
        app.Use(
            (http, next) =>
                http.Request.IsHttps || http.Request.Path == "/api/health"
                    ? next(http)
                    : Problems.WriteAsync(
                        http,
                        new(
                            "tls-needed",
                            null,
                            "This product is reached by TLS only. A proxy in front has to send X-Forwarded-Proto."
                        )
                    )
        );
    }

    /// <summary>
    /// What a proxy says of the other side is believed of the listed proxies only: anybody else could write it too.
    /// </summary>
    private static ForwardedHeadersOptions ProxyHeaders(IReadOnlyList<System.Net.IPNetwork> proxies)
    {
        var headers = new ForwardedHeadersOptions
        {
            ForwardedHeaders =
                ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto | ForwardedHeaders.XForwardedHost,
            ForwardLimit = null,
        };
        headers.KnownIPNetworks.Clear();
        headers.KnownProxies.Clear();
        foreach (var network in proxies)
        {
            headers.KnownIPNetworks.Add(network);
        }

        return headers;
    }

    /// <summary>Every refusal and every fault is problem details (RFC 9457), whoever found it.</summary>
    private static void SayWhatWentWrong(WebApplication app)
    {
        app.UseExceptionHandler(
            new ExceptionHandlerOptions
            {
                SuppressDiagnosticsCallback = context =>
                    Problems.FromException(context.Exception, context.HttpContext) is not null,
                ExceptionHandler = http =>
                {
                    var exception = http.Features.Get<IExceptionHandlerFeature>()!.Error;
                    if (Problems.FromException(exception, http) is { } refusal)
                    {
                        return Problems.WriteAsync(http, refusal);
                    }

                    http.Response.StatusCode = StatusCodes.Status500InternalServerError;
                    return http.Response.WriteAsJsonAsync(
                        new Microsoft.AspNetCore.Mvc.ProblemDetails
                        {
                            Type = "urn:widekeel:problem:fault",
                            Title =
                                "Something in the product went wrong. Check whether your change was saved. "
                                + "The server's log has the details.",
                            Status = 500,
                        },
                        options: null,
                        contentType: "application/problem+json"
                    );
                },
            }
        );
        app.UseStatusCodePages(context => Problems.WriteStatusAsync(context.HttpContext));
    }

    /// <summary>
    /// What is asked on screen has its time. A file that is written as it is read has not, and a page that hears of jobs
    /// goes on hearing for as long as it is open.
    /// </summary>
    private static bool HasItsTime(HttpContext http) =>
        HttpMethods.IsGet(http.Request.Method)
        && !Path.HasExtension(http.Request.Path)
        && http.GetEndpoint()?.Metadata.GetMetadata<HubMetadata>() is null;

    /// <summary>
    /// Whether another page may have sent a change. A browser sends no key by itself, so a request with one that exists is no
    /// forgery; a key that does not exist is worth nothing.
    /// </summary>
    private static async Task<bool> IsForgedAsync(HttpContext http, Caller caller) =>
        !caller.ByKey
        && !await ApiKeyAuthentication.IsOfChannelAsync(http)
        && !await http.RequestServices.GetRequiredService<IAntiforgery>().IsRequestValidAsync(http);

    /// <summary>The door: who is it, is the change their own, may they use this address.</summary>
    private static async Task DoorAsync(HttpContext http, RequestDelegate next)
    {
        if (!http.Request.Path.StartsWithSegments("/api"))
        {
            await next(http);
            return;
        }

        if (HasItsTime(http))
        {
            SearchDeadline.Begin(http.RequestServices.GetRequiredService<WideKeelOptions>().LongestSearch);
        }

        var scheme = ApiKeyAuthentication.IsOffered(http.Request)
            ? ApiKeyAuthentication.SchemeName
            : IdentityConstants.ApplicationScheme;
        if (await http.AuthenticateAsync(scheme) is { Succeeded: true, Principal: { } principal })
        {
            http.User = principal;
        }

        http.Response.Headers.CacheControl = "no-store";
        var caller = http.RequestServices.GetRequiredService<Caller>();
        await caller.LoadAsync(
            http,
            http.RequestServices.GetRequiredService<WideKeelDb>(),
            http.RequestServices.GetRequiredService<OrganisationCalendar>().Today
        );
        if (Requirements.Decide(http.GetEndpoint()?.Metadata.GetMetadata<Requirement>(), caller) is { } refusal)
        {
            await Problems.WriteAsync(http, refusal);
            return;
        }

        if (
            !HttpMethods.IsGet(http.Request.Method)
            && !HttpMethods.IsHead(http.Request.Method)
            && await IsForgedAsync(http, caller)
        )
        {
            await Problems.WriteAsync(
                http,
                Refusal.Forbidden(
                    "antiforgery",
                    null,
                    "This change did not come from a page of the product. Reload and try again."
                )
            );
            return;
        }

        if (http.RequestServices.GetRequiredService<QueryNames>().Check(http) is { } unknown)
        {
            await Problems.WriteAsync(http, unknown);
            return;
        }

        await next(http);
    }
}

/// <summary>
/// The database is not one that this version may open: another version made it, or it is older than the heads that were
/// signed over it.
/// </summary>
public sealed class NotOursException(string message) : Exception(message);

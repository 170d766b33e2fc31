using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.People;
using WideKeel.Server.People;

namespace WideKeel.Server.Tests.People;

public sealed partial class DoorTests(DoorTests.Shared shared) : IClassFixture<DoorTests.Shared>
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>
    /// Every endpoint and who may use it: R records manager, S steward, F staff, A administrator, L legal lead, G
    /// legal, Y security analyst, * anyone signed in, - anyone at all. A new endpoint fails the test until it stands here.
    /// </summary>
    private const string Table = """
        GET /api/session -
        POST /api/session -
        DELETE /api/session -
        POST /api/session/password *
        GET /api/session/one-time-codes *
        POST /api/session/one-time-codes *
        POST /api/session/one-time-codes/confirmation *
        POST /api/session/one-time-codes/recovery-codes *
        POST /api/session/one-time-codes/turn-off *
        POST /api/set-up -
        POST /api/people/{id:long}/invitation A
        GET /api/invitations/{token} -
        POST /api/invitations/{token} -
        POST /api/links/{token}/code -
        POST /api/links/{token}/entrance -
        GET /api/factor-roles A
        PUT /api/factor-roles A
        GET /api/inner-networks A
        PUT /api/inner-networks A
        GET /api/health -
        GET /api/encryption RA
        POST /api/encryption RA
        POST /api/encryption/rotation RA
        GET /api/troubles RA
        GET /api/today *
        GET /api/duties/count *
        GET /api/find *
        GET /api/items RSFLG
        GET /api/items.csv RSFLG
        GET /api/items.xlsx RSFLG
        GET /api/items/facets RSFLG
        GET /api/items/{id:long}/alike RSFLG
        POST /api/items/{id:long}/unmasking R
        POST /api/query/reading *
        POST /api/query/writing *
        GET /api/query/indexes RSFLG
        POST /api/query/completions RSFLG
        GET /api/views *
        POST /api/views *
        PUT /api/views/{id:long} *
        DELETE /api/views/{id:long} *
        GET /api/sensitive RS
        POST /api/sensitive/trial R
        POST /api/sensitive/kinds R
        PUT /api/sensitive/kinds/{id:long} R
        DELETE /api/sensitive/kinds/{id:long} R
        POST /api/sensitive/look R
        GET /api/items/{id:long} RSFLG
        GET /api/items/{id:long}/preview RSFLG
        GET /api/items/{id:long}/history RSFLG
        POST /api/filings/consequences RSF
        POST /api/filings/consequences/{group} RSF
        POST /api/filings RSF
        GET /api/containers RSFLGM
        GET /api/schedule.csv RSFLGM
        GET /api/schedule.xlsx RSFLGM
        POST /api/schedule/return RS
        POST /api/schedule/return/{group} RS
        POST /api/schedule/to-mend/settlements RS
        GET /api/schedule/drafts RS
        GET /api/schedule/drafts/{group} RS
        POST /api/schedule/adoption RS
        GET /api/schedule/health RS
        GET /api/schedule/to-mend RS
        GET /api/authorities RSFLGM
        POST /api/authorities RS
        PUT /api/authorities/{id:long} RS
        DELETE /api/authorities/{id:long} RS
        POST /api/authorities/library R
        GET /api/blankets RSFLGM
        POST /api/blankets RS
        GET /api/blankets/{id:long} RSFLGM
        PUT /api/blankets/{id:long}/draft RS
        DELETE /api/blankets/{id:long}/draft RS
        POST /api/blankets/{id:long}/consequences RS
        POST /api/blankets/{id:long}/consequences/{group} RS
        POST /api/blankets/{id:long}/activation RS
        POST /api/blankets/{id:long}/retirement/consequences RS
        POST /api/blankets/{id:long}/retirement/consequences/{group} RS
        POST /api/blankets/{id:long}/retirement RS
        DELETE /api/series/{id:long} RS
        DELETE /api/blankets/{id:long} RS
        GET /api/trigger-event-types RSFLGM
        POST /api/trigger-event-types R
        PUT /api/trigger-event-types/{id:long} R
        GET /api/trigger-events RSFLGM
        POST /api/trigger-events R
        POST /api/trigger-events/consequences R
        POST /api/trigger-events/consequences/{group} R
        POST /api/trigger-events/csv R
        POST /api/trigger-events/csv/{group} R
        POST /api/trigger-events/{id:long}/revocation/consequences R
        POST /api/trigger-events/{id:long}/revocation/consequences/{group} R
        POST /api/trigger-events/{id:long}/revocation R
        GET /api/subjects/{subject} RSFLG
        GET /api/filing-defaults RSFLGM
        PUT /api/filing-defaults RS
        GET /api/filing-rules RSFLGM
        GET /api/filing-suggestions RSF
        GET /api/colleagues RSFLGM
        GET /api/questions *
        POST /api/questions/{id:long}/answer *
        GET /api/bundles/{id:long}.zip RS
        POST /api/bundles/{id:long}/receipt RS
        GET /api/messages RA
        POST /api/messages/{id:long}/retry RA
        GET /api/mail-settings RA
        PUT /api/mail-settings RA
        POST /api/mail-settings/test RA
        GET /api/mail-sink RA
        GET /api/mail-sink/{name} RA
        GET /api/webhooks RA
        POST /api/webhooks RA
        PUT /api/webhooks/{id:long} RA
        DELETE /api/webhooks/{id:long} RA
        GET /api/calendar-feed *
        POST /api/calendar-feed *
        GET /api/calendar/{key}.ics -
        GET /api/safekeeping RA
        POST /api/safekeeping/verification RA
        GET /api/items/{id:long}/copies RSFLG
        POST /api/items/{id:long}/restoration RS
        POST /api/filing-suggestions/learning RS
        POST /api/filing-rules RS
        GET /api/filing-rules/clashes RSFLGM
        PUT /api/filing-rules/{id:long} RS
        GET /api/filing-rules/{id:long}/samples RS
        PUT /api/filing-rules/{id:long}/samples/{item:long} RS
        POST /api/filing-rules/{id:long}/consequences RS
        POST /api/filing-rules/{id:long}/consequences/{group} RS
        POST /api/filing-rules/{id:long}/activation RS
        POST /api/filing-rules/{id:long}/stop RS
        GET /api/proposals *
        GET /api/proposals/all *
        GET /api/proposals/{id:long} *
        GET /api/proposals/{id:long}/consequences/{group} *
        POST /api/proposals/{id:long}/decision *
        GET /api/settings RA
        POST /api/settings/consequences RA
        POST /api/settings/consequences/{group} RA
        PUT /api/settings RA
        POST /api/settings/worm RA
        GET /api/sources RA
        POST /api/sources A
        GET /api/sources/{id:long}/exceptions RA
        POST /api/sources/{id:long}/scans RA
        PUT /api/containers/{id:long} A
        GET /api/series RSFLGM
        GET /api/series/names RSFLGM
        POST /api/series RS
        GET /api/series/{id:long} RSFLGM
        PUT /api/series/{id:long}/draft RS
        DELETE /api/series/{id:long}/draft RS
        GET /api/series/{id:long}/versions RSFLGM
        GET /api/series/{id:long}/history RSFLGM
        POST /api/series/{id:long}/consequences RS
        POST /api/series/{id:long}/consequences/{group} RS
        POST /api/series/{id:long}/activation RS
        POST /api/series/{id:long}/retirement/consequences RS
        POST /api/series/{id:long}/retirement/consequences/{group} RS
        POST /api/series/{id:long}/retirement RS
        GET /api/docket RS
        POST /api/batches RS
        POST /api/clearings RS
        GET /api/batches/{id:long} RS
        GET /api/batches/{id:long}/lines RS
        POST /api/batches/{id:long}/lines/{item:long}/opened RS
        POST /api/batches/{id:long}/marks RS
        POST /api/batches/{id:long}/sign-offs RS
        POST /api/batches/{id:long}/withdrawal RS
        POST /api/batches/{id:long}/retry RS
        GET /api/certificates RS
        GET /api/certificates/{id:long} RS
        GET /api/certificates/{id:long}/document.csv RS
        GET /api/certificates/{id:long}/document.json RS
        GET /api/certificates/{id:long}/document.pdf RS
        GET /api/ledger RSAYM
        GET /api/ledger/verification RAM
        GET /api/ledger/export RAM
        GET /api/units *
        POST /api/units A
        GET /api/people A
        POST /api/people A
        PUT /api/people/{id:long} A
        DELETE /api/people/{id:long}/one-time-codes A
        GET /api/sessions *
        DELETE /api/sessions *
        DELETE /api/sessions/{id:long} *
        GET /api/api-keys *
        POST /api/api-keys *
        DELETE /api/api-keys/{id:long} *
        GET /api/jobs RSALGYM
        GET /api/jobs/{id:long} RSALGYM
        POST /api/jobs/{id:long}/cancellation RSALGYM
        ANY /api/jobs/stream RSALGY
        ANY /api/jobs/stream/negotiate RSALGY
        ANY /api/{**rest} -
        GET /api/matters/{id:long}/custodians/offers *
        POST /api/matters/{id:long}/custodians *
        PUT /api/matters/{id:long}/custodians/{custodian:long} *
        DELETE /api/matters/{id:long}/custodians/{custodian:long} *
        POST /api/matters/{id:long}/notices/preview *
        POST /api/matters/{id:long}/notices *
        POST /api/matters/{id:long}/notices/copies/{copy:long}/reminder *
        GET /api/notices *
        GET /api/notices/{token} -
        POST /api/notices/{token}/{copy:long}/opening -
        POST /api/notices/{token}/{copy:long}/acknowledgement -
        GET /api/matters *
        POST /api/matters LG
        GET /api/matters/others L
        POST /api/matters/{id:long}/joining L
        GET /api/matters/{id:long} *
        PUT /api/matters/{id:long} *
        GET /api/matters/{id:long}/history *
        GET /api/matters/{id:long}/candidates *
        POST /api/matters/{id:long}/members *
        DELETE /api/matters/{id:long}/members/{member:long} *
        POST /api/matters/{id:long}/state *
        POST /api/matters/{id:long}/deletion *
        GET /api/hold-orders *
        POST /api/matters/{id:long}/orders *
        PUT /api/matters/{id:long}/orders/{order:long}/draft *
        DELETE /api/matters/{id:long}/orders/{order:long}/draft *
        POST /api/matters/{id:long}/orders/{order:long}/consequences *
        POST /api/matters/{id:long}/orders/{order:long}/consequences/{group} *
        POST /api/matters/{id:long}/orders/{order:long}/activation *
        GET /api/matters/{id:long}/orders/{order:long}/items *
        POST /api/matters/{id:long}/orders/{order:long}/pins *
        POST /api/matters/{id:long}/bundles *
        GET /api/matters/{id:long}/bundles/{bundle:long}.zip *
        DELETE /api/matters/{id:long}/bundles/{bundle:long} *
        POST /api/matters/{id:long}/count *
        POST /api/matters/{id:long}/activity YM
        POST /api/matters/{id:long}/activity/investigations YM
        GET /api/matters/{id:long}/investigations *
        POST /api/matters/{id:long}/orders/{order:long}/releases/events *
        POST /api/matters/{id:long}/sweeps *
        PUT /api/matters/{id:long}/sweeps/{sweep:long} *
        DELETE /api/matters/{id:long}/sweeps/{sweep:long} *
        POST /api/matters/{id:long}/sweeps/{sweep:long}/runs *
        GET /api/matters/{id:long}/sweeps/{sweep:long}/runs *
        GET /api/matters/{id:long}/runs/{run:long}/items *
        GET /api/matters/{id:long}/runs/{run:long}/items.csv *
        GET /api/matters/{id:long}/runs/{run:long}/unreadable *
        POST /api/matters/{id:long}/runs/{run:long}/coding *
        GET /api/matters/{id:long}/tags/{tag:long}/items *
        POST /api/matters/{id:long}/tags *
        PUT /api/matters/{id:long}/tags/{tag:long} *
        DELETE /api/matters/{id:long}/tags/{tag:long} *
        PUT /api/matters/{id:long}/custodians/{custodian:long}/found/{place:long} *
        GET /api/matters/{id:long}/items/{item:long}/versions *
        GET /api/matters/{id:long}/items/{item:long}/versions/{hash} *
        GET /api/matters/{id:long}/items/{item:long}/versions/{hash}/file *
        POST /api/matters/{id:long}/orders/{order:long}/releases/consequences *
        POST /api/matters/{id:long}/orders/{order:long}/releases/consequences/{group} *
        POST /api/matters/{id:long}/orders/{order:long}/releases *
        POST /api/matters/{id:long}/releases/{release:long}/decision *
        POST /api/matters/{id:long}/releases/{release:long}/undoing *
        PUT /api/sources/{id:long} A
        POST /api/sources/{id:long}/test RA
        GET /api/workspace/libraries RSFLG
        GET /api/workspace/libraries/{id:long}/folder RSFLG
        POST /api/workspace/libraries/{id:long}/folders RSF
        DELETE /api/workspace/libraries/{id:long}/folders RSF
        POST /api/workspace/libraries/{id:long}/files RSF
        POST /api/workspace/libraries/{id:long}/posts RSF
        GET /api/workspace/files/{id:long} RSFLG
        GET /api/workspace/files/{id:long}/content RSFLG
        PUT /api/workspace/files/{id:long}/text RSF
        PUT /api/workspace/files/{id:long}/fields RSF
        POST /api/workspace/files/{id:long}/name RSF
        POST /api/workspace/files/{id:long}/place RSF
        POST /api/workspace/files/{id:long}/successor RSF
        POST /api/workspace/files/{id:long}/versions/{number:int}/restoration RSF
        DELETE /api/workspace/files/{id:long} RSF
        GET /api/directory/people RALGYM
        GET /api/directory/groups RALGYM
        POST /api/directory A
        POST /api/directory/consequences A
        GET /api/directory/sources A
        POST /api/directory/sources A
        POST /api/directory/sources/{id:long}/end A
        POST /api/directory/failures A
        POST /api/directory/sources/{id:long}/token A
        GET /api/channels A
        POST /api/channels A
        PUT /api/channels/{id:long} A
        POST /api/channels/{id:long}/key A
        GET /api/channels/{id:long}/rejected A
        POST /api/channels/trial A
        POST /api/channels/{id:long}/files A
        POST /api/channels/seal A
        POST /api/channels/costs A
        GET /api/channels/names LG
        POST /api/channels/kept LG
        POST /api/channels/{name}/events -
        GET /api/networks A
        PUT /api/networks A
        PUT /api/places A
        PUT /api/places/csv A
        PUT /api/places/mmdb A
        GET /api/events YM
        GET /api/events/facets YM
        GET /api/events/histogram YM
        GET /api/events/{id:long} YM
        GET /api/events/{id:long}/proof YM
        GET /api/events.csv YM
        GET /api/events.xlsx YM
        GET /api/events.jsonl YM
        GET /api/activity/boards/{name} YM
        GET /api/activity/sign-ins YM
        PUT /api/activity/sign-in-codes/{code} Y
        DELETE /api/activity/sign-in-codes/{code} Y
        GET /api/events/{id:long}/diagnosis YM
        GET /api/statements YM
        POST /api/statements YM
        POST /api/statements/answers YM
        POST /api/statements/answers.csv YM
        DELETE /api/statements/{id:long} YM
        PUT /api/statements/{id:long}/schedule YM
        POST /api/statements/tables/{name} YM
        DELETE /api/statements/tables/{name} YM
        GET /api/events/{id:long}/thread YM
        GET /api/investigations YM
        POST /api/investigations YM
        PUT /api/investigations/{id:long} YM
        POST /api/investigations/{id:long}/events YM
        DELETE /api/investigations/{id:long}/events/{eventId:long} YM
        POST /api/investigations/{id:long}/freezing YM
        POST /api/investigations/{id:long}/matter YM
        GET /api/investigations/{id:long}/file YM
        GET /api/watches YM
        GET /api/watches/kinds YM
        GET /api/watches/templates YM
        POST /api/watches Y
        PUT /api/watches/{id:long} Y
        DELETE /api/watches/{id:long} Y
        POST /api/watches/{id:long}/on Y
        POST /api/watches/{id:long}/off Y
        POST /api/watches/backtest YM
        GET /api/alerts YM
        GET /api/alerts/{id:long} YM
        POST /api/alerts/{id:long}/state Y
        POST /api/alerts/{id:long}/owner Y
        POST /api/alerts/{id:long}/feedback Y
        POST /api/alerts/{id:long}/acts Y
        POST /api/alerts/{id:long}/acts/{act:long}/decision Y
        POST /api/alerts/{id:long}/acts/{act:long}/undo Y
        GET /api/alerts/{id:long}/file YM
        POST /api/alerts/{id:long}/investigation Y
        GET /api/alerts/{id:long}/investigations YM
        POST /api/alerts/{id:long}/investigations YM
        GET /api/alert-settings *
        PUT /api/alert-settings RA
        GET /api/alert-weights YM
        DELETE /api/alert-weights Y
        GET /api/action-severities YM
        PUT /api/action-severities Y
        GET /api/reviews YM
        GET /api/reviews/history.csv YM
        POST /api/reviews/consequences M
        POST /api/reviews M
        PUT /api/reviews/{id:long} M
        POST /api/reviews/{id:long}/rounds M
        GET /api/reviews/{id:long}/rounds/{number:int} YM
        PUT /api/reviews/{id:long}/rounds/{number:int} M
        POST /api/reviews/{id:long}/rounds/{number:int}/reminders M
        POST /api/reviews/{id:long}/rounds/{number:int}/hand-over M
        POST /api/reviews/{id:long}/rounds/{number:int}/next-stage M
        POST /api/reviews/{id:long}/rounds/{number:int}/end M
        POST /api/reviews/{id:long}/rounds/{number:int}/carrying-out M
        GET /api/reviews/{id:long}/rounds/{number:int}/report.csv YM
        GET /api/reviews/{id:long}/rounds/{number:int}/report.json YM
        GET /api/reviews/{id:long}/rounds/{number:int}/report.pdf YM
        GET /api/reviews/{id:long}/rounds/{number:int}/addenda.json YM
        GET /api/access/entries YM
        GET /api/access/reach YM
        GET /api/access/reach.csv YM
        GET /api/access/ways YM
        GET /api/access/comparison YM
        GET /api/access/least YM
        POST /api/access/consequences YM
        POST /api/access/changes M
        GET /api/access/lists YM
        GET /api/access/lists/{name} YM
        GET /api/access/lists/{name}/news YM
        GET /api/access/lists/{name}/list.csv YM
        PUT /api/access/lists/{name}/news M
        GET /api/access/owners YM
        PUT /api/access/owners M
        POST /api/access/owners/asking M
        PUT /api/access/owners/reviews M
        GET /api/owned *
        GET /api/owned/people *
        POST /api/owned/reviews *
        GET /api/owned/reviews/{id:long}/rounds/{number:int}/report.csv *
        GET /api/ownership/{token} -
        POST /api/ownership/{token} -
        GET /api/access/toxic-pairs YM
        PUT /api/access/toxic-pairs M
        GET /api/review/{token} -
        POST /api/review/{token}/answers -
        POST /api/review/{token}/lines/{line:long}/opening -
        GET /api/review/{token}/lines/{line:long}/removal -
        GET /api/review-lines *
        GET /api/controls M
        GET /api/controls/{id:long}/history M
        POST /api/controls M
        PUT /api/controls/{id:long} M
        DELETE /api/controls/{id:long} M
        POST /api/controls/{id:long}/not-applicable M
        POST /api/controls/{id:long}/approval M
        POST /api/controls/{id:long}/parts M
        PUT /api/controls/{id:long}/parts/{part:long} M
        DELETE /api/controls/{id:long}/parts/{part:long} M
        PUT /api/controls/{id:long}/parts/{part:long}/readers M
        GET /api/evidence M
        GET /api/evidence/mine *
        POST /api/control-parts/{id:long}/runs M
        POST /api/control-parts/{id:long}/done *
        POST /api/control-parts/{id:long}/evidence *
        POST /api/proofs/{id:long}/review *
        POST /api/proofs/{id:long}/withdrawal *
        GET /api/proofs/{id:long} *
        GET /api/proofs/{id:long}/file *
        GET /api/measures M
        GET /api/own-measures M
        POST /api/own-measures M
        POST /api/own-measures/trial M
        PUT /api/own-measures/{id:long} M
        DELETE /api/own-measures/{id:long} M
        GET /api/gauges M
        POST /api/gauges M
        GET /api/gauges/{id:long} M
        PUT /api/gauges/{id:long} M
        DELETE /api/gauges/{id:long} M
        POST /api/gauges/{id:long}/exclusions M
        DELETE /api/gauges/{id:long}/exclusions/{exclusion:long} M
        GET /api/registers M
        POST /api/registers M
        PUT /api/registers/{id:long} M
        DELETE /api/registers/{id:long} M
        GET /api/audits *
        POST /api/audits M
        GET /api/audits/{id:long} *
        PUT /api/audits/{id:long} M
        POST /api/audits/{id:long}/closing M
        POST /api/audits/{id:long}/requests *
        GET /api/audits/{id:long}/requests/{number:int}/candidates *
        POST /api/audits/{id:long}/requests/{number:int}/offer *
        POST /api/audits/{id:long}/requests/{number:int}/offers/{proof:long}/withdrawal *
        POST /api/audits/{id:long}/requests/{number:int}/state *
        POST /api/audits/{id:long}/requests/{number:int}/remarks *
        GET /api/audits/{id:long}/proofs/{proof:long} *
        GET /api/audits/{id:long}/proofs/{proof:long}/file *
        POST /api/audits/{id:long}/populations M
        POST /api/audits/{id:long}/samples *
        POST /api/audits/{id:long}/samples/{sample:long}/result *
        POST /api/audits/{id:long}/findings *
        PUT /api/audits/{id:long}/findings/{finding:long} *
        PUT /api/audits/{id:long}/findings/{finding:long}/response *
        POST /api/audits/{id:long}/findings/{finding:long}/verification *
        POST /api/audits/{id:long}/findings/{finding:long}/investigations YM
        GET /api/audits/{id:long}/findings/{finding:long}/investigations/{investigation:long}/file *
        GET /api/audits/{id:long}/room.zip *
        GET /api/assurance -
        GET /api/assurance/preview M
        GET /api/assurance/settings M
        PUT /api/assurance/settings M
        GET /api/frameworks/preview M
        POST /api/frameworks/preview M
        GET /api/crosswalk M
        GET /api/crosswalk.csv M
        PUT /api/crosswalk/csv M
        POST /api/registers/{id:long}/documents M
        GET /api/register-documents/{id:long}/file M
        GET /api/policies M
        POST /api/policies M
        GET /api/policies/{id:long} M
        PUT /api/policies/{id:long} M
        POST /api/policies/{id:long}/end M
        POST /api/policies/{id:long}/versions M
        PUT /api/policies/{id:long}/versions/{number:int}/file M
        GET /api/policies/{id:long}/versions/{number:int}/file M
        POST /api/policies/{id:long}/versions/{number:int}/approval M
        POST /api/policies/{id:long}/versions/{number:int}/refusal M
        POST /api/policies/{id:long}/requests M
        POST /api/policies/{id:long}/reminders M
        GET /api/policies/{id:long}/acknowledgements.csv M
        GET /api/policy/{token} -
        GET /api/policy/{token}/file -
        POST /api/policy/{token}/opening -
        POST /api/policy/{token}/acknowledgement -
        GET /api/connections M
        POST /api/connections M
        POST /api/connections/trial M
        PUT /api/connections/{id:long} M
        DELETE /api/connections/{id:long} M
        POST /api/connections/{id:long}/reading M
        GET /api/connections/{id:long}/records M
        GET /api/areas/people M
        GET /api/areas/training M
        GET /api/areas/changes M
        GET /api/areas/incidents M
        GET /api/assurance/room M
        POST /api/assurance/documents M
        DELETE /api/assurance/documents/{id:long} M
        POST /api/assurance/documents/{id:long}/asks -
        POST /api/assurance/asks/{id:long}/decision M
        POST /api/assurance/clients M
        DELETE /api/assurance/clients/{id:long} M
        GET /api/assurance/given/{token} -
        GET /api/assurance/given/{token}/{document:long} -
        GET /api/readiness M
        GET /api/readiness/forecast M
        GET /api/readiness/fixes M
        GET /api/frameworks/library M
        POST /api/frameworks M
        POST /api/frameworks/oscal M
        GET /api/frameworks/{code} M
        GET /api/frameworks/{code}/oscal M
        DELETE /api/frameworks/{code} M
        """;

    private static readonly Dictionary<char, string> People = new()
    {
        ['R'] = "ines",
        ['S'] = "maren",
        ['F'] = "pia",
        ['A'] = "jonas",
        ['L'] = "vera",
        ['G'] = "nils",
        ['Y'] = "sunniva",
        ['M'] = "mikkel",
    };

    [Fact]
    public async Task Every_endpoint_is_open_to_the_roles_that_are_listed_and_closed_to_the_others()
    {
        var listed = Table.Split('\n').Select(l => l.Split(' ')).ToDictionary(p => $"{p[0]} {p[1]}", p => p[2]);
        var endpoints = shared
            .Product.Services.GetRequiredService<EndpointDataSource>()
            .Endpoints.OfType<RouteEndpoint>()
            .Where(e => e.RoutePattern.RawText!.StartsWith("/api", StringComparison.Ordinal))
            .SelectMany(e =>
                (e.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? ["ANY"]).Select(m =>
                    (Key: $"{m} {e.RoutePattern.RawText}", Endpoint: e)
                )
            )
            .ToList();
        var there = endpoints.ConvertAll(e => e.Key);
        there.Except(listed.Keys).ShouldBeEmpty("not listed");
        listed.Keys.Except(there).ShouldBeEmpty("listed only");
        endpoints.ShouldAllBe(e => e.Endpoint.Metadata.GetMetadata<Requirement>() != null);

        foreach (var (letter, name) in People)
        {
            using var who = await shared.Product.SignInAsync(name);
            foreach (
                var (key, allowed) in listed.Where(l =>
                    !l.Key.StartsWith("ANY", StringComparison.Ordinal)
                    && !l.Key.EndsWith("/session", StringComparison.Ordinal)
                    && !l.Key.EndsWith("/stream", StringComparison.Ordinal)
                )
            )
            {
                var (method, path) = (
                    key.Split(' ')[0],
                    Parameters().Replace(key.Split(' ')[1]["/api/".Length..], "999999")
                );
                var answer = await who.SendAsync(
                    new HttpMethod(method),
                    path,
                    method is "POST" or "PUT" ? new { } : null,
                    null
                );
                var closed = answer.Status == HttpStatusCode.Forbidden && answer.Problem == "not-allowed";
                var open = allowed is "-" or "*" || allowed.Contains(letter, StringComparison.Ordinal);
                // Set-up is open to all and refuses because it is done; keys are refused for the missing scopes.
                if (key is not ("POST /api/set-up" or "POST /api/api-keys"))
                {
                    closed.ShouldBe(!open, $"{name} on {key}: {answer.Status} {answer.Body}");
                }
            }
        }

        using var nobody = await Api.ConnectAsync(shared.Product.Address);
        foreach (
            var key in listed
                .Where(l => l.Value != "-")
                .Select(l => l.Key.Replace("ANY", "GET", StringComparison.Ordinal))
        )
        {
            var answer = await nobody.SendAsync(
                new HttpMethod(key.Split(' ')[0]),
                Parameters().Replace(key.Split(' ')[1]["/api/".Length..], "1"),
                key.StartsWith('P') ? new { } : null,
                null
            );
            answer.Status.ShouldBe(HttpStatusCode.Unauthorized, key);
        }
    }

    [Fact]
    public async Task A_steward_of_one_part_learns_nothing_of_its_sister_by_list_count_search_id_or_ledger()
    {
        var product = shared.Product;
        using var maren = await product.SignInAsync("maren");
        using var ines = await product.SignInAsync("ines");
        var northern = (await ines.GetOk("items?cql=secretword")).GetProperty("items")[0];
        northern.GetProperty("container").GetString().ShouldBe("Northern");
        var id = northern.GetProperty("id").GetInt64();

        (await maren.GetOk("items"))
            .GetProperty("items")
            .EnumerateArray()
            .Select(i => i.GetProperty("container").GetString())
            .Distinct()
            .ShouldBe(["Island"]);
        (await maren.GetOk("items")).GetProperty("total").GetInt64().ShouldBe(3);
        (await maren.GetOk("items?cql=secretword")).GetProperty("total").GetInt64().ShouldBe(0);
        (await maren.GetOk($"items?ids={id}")).GetProperty("total").GetInt64().ShouldBe(0);
        (await maren.GetOk($"items?container={northern.GetProperty("containerId").GetInt64()}"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(0);
        (await maren.GetOk("items/facets")).ToString().ShouldNotContain("Northern");
        (await maren.GetOk("find?q=secretword")).GetArrayLength().ShouldBe(0);
        (await maren.GetOk("find?q=NOR-010")).GetArrayLength().ShouldBe(0);
        foreach (
            var path in new[]
            {
                $"items/{id}",
                $"items/{id}/preview",
                $"items/{id}/history",
                $"series/{shared.NorthernSeries}",
                $"series/{shared.NorthernSeries}/versions",
                $"batches/{shared.NorthernBatch}",
                $"batches/{shared.NorthernBatch}/lines",
            }
        )
        {
            var answer = await maren.Get(path);
            var unknown = await maren.Get(Numbers().Replace(path, "987654", 1));
            answer.Status.ShouldBe(HttpStatusCode.NotFound, path);
            answer.Body.GetProperty("title").GetString().ShouldBe(unknown.Body.GetProperty("title").GetString());
        }

        (await maren.GetOk("series/names"))
            .EnumerateArray()
            .Select(s => s.GetProperty("code").GetString())
            .ShouldBe(["ALL-010", "ISL-010"]);
        (await maren.GetOk("series"))
            .GetProperty("series")
            .EnumerateArray()
            .Single(s => s.GetProperty("code").GetString() == "ALL-010")
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(0);
        (await maren.GetOk("docket")).ToString().ShouldNotContain("NOR-010");
        (await maren.GetOk("units")).ToString().ShouldNotContain("Northern");
        var ledger = await maren.GetOk("ledger?limit=500");
        ledger.ToString().ShouldNotContain("secret");
        ledger.ToString().ShouldNotContain("Northern");
        ledger.GetProperty("total").GetInt64().ShouldBe(ledger.GetProperty("entries").GetArrayLength());
        (await maren.GetOk($"ledger?kind=item&subject={id}")).GetProperty("total").GetInt64().ShouldBe(0);
        (await maren.GetOk("today")).ToString().ShouldNotContain("NOR-010");
        (await maren.GetOk("jobs")).ToString().ShouldNotContain("NOR-010");
        var csv = await maren.Http.GetStringAsync(new Uri("items.csv", UriKind.Relative), Stop);
        csv.ShouldNotContain("Northern");

        // Nor can she act there: file, sign, write, open.
        (
            await maren.Post(
                "filings/consequences",
                new { selection = new { ids = new[] { id } }, seriesId = shared.IslandSeries }
            )
        )
            .Body.GetProperty("figures")
            .GetProperty("inReach")
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(0);
        (await maren.Post("batches", new { seriesId = shared.NorthernSeries })).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
        (await maren.Post($"series/{shared.NorthernSeries}/consequences", Product.Definition())).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
        (await maren.Put($"series/{shared.NorthernSeries}/draft", Product.Definition(), 1)).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
        (await maren.Put($"series/{shared.WholeSeries}/draft", Product.Definition(), 1)).Status.ShouldBe(
            HttpStatusCode.Forbidden
        );
        (
            await maren.Post(
                "series",
                new
                {
                    code = "XXX-010",
                    unitId = product.Units["Northern"],
                    draft = Product.Definition(),
                }
            )
        ).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    /// <summary>
    /// The remit in the matrix: every address that a steward may read is asked for everything that has a low number, and
    /// shows nothing of the sister unit, by whatever name it would be there.
    /// </summary>
    [Fact]
    public async Task No_address_shows_a_steward_anything_of_the_sister_unit()
    {
        using var maren = await shared.Product.SignInAsync("maren");
        List<string> shown = [];
        foreach (
            var path in Table
                .Split('\n')
                .Select(l => l.Split(' '))
                .Where(l =>
                    l[0] == "GET"
                    && (l[2] is "*" or "-" || l[2].Contains('S', StringComparison.Ordinal))
                    && !l[1].EndsWith("/stream", StringComparison.Ordinal)
                    && !l[1].Contains("{token}", StringComparison.Ordinal)
                )
                .Select(l => l[1]["/api/".Length..])
        )
        {
            foreach (var id in Enumerable.Range(1, path.Contains('{', StringComparison.Ordinal) ? 12 : 1))
            {
                var asked = Parameters().Replace(path, id.ToString(CultureInfo.InvariantCulture));
                var text = (await maren.Get(asked)).Text ?? "";
                if (new[] { "NOR-010", "secretword", "secret 1", "Northern" }.Any(w => text.Contains(w)))
                {
                    shown.Add(asked);
                }
            }
        }

        shown.ShouldBeEmpty();
    }

    [Fact]
    public async Task Items_outside_a_series_unit_are_not_filed_under_it()
    {
        using var ines = await shared.Product.SignInAsync("ines");
        var answer = await ines.Post(
            "filings/consequences",
            new { selection = new { cql = "secretword" }, seriesId = shared.IslandSeries }
        );
        answer.Problem.ShouldBe("outside-the-series");
    }

    [Fact]
    public async Task A_key_does_what_its_scopes_say_until_it_is_revoked_or_its_person_is_switched_off()
    {
        using var tobias = await shared.Product.SignInAsync("tobias");
        (
            await tobias.Post(
                "api-keys",
                new
                {
                    name = "too much",
                    scopes = new[] { "managePeople" },
                    days = 5,
                }
            )
        ).Problem.ShouldBe("not-allowed");
        var issued = await tobias.PostOk(
            "api-keys",
            new
            {
                name = "reader",
                scopes = new[] { "readContent" },
                days = 5,
            }
        );
        using var program = new HttpClient { BaseAddress = new Uri(shared.Product.Address, "/api/") };
        program.DefaultRequestHeaders.Add("Authorization", $"Bearer {issued.GetProperty("key").GetString()}");
        (await program.GetAsync(new Uri("items", UriKind.Relative), Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await program.GetAsync(new Uri("series", UriKind.Relative), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.Forbidden
        );
        (await tobias.Delete($"api-keys/{issued.GetProperty("view").GetProperty("id").GetInt64()}")).Status.ShouldBe(
            HttpStatusCode.OK
        );
        (await program.GetAsync(new Uri("items", UriKind.Relative), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.Unauthorized
        );
    }

    [Fact]
    public async Task Five_failures_lock_an_account_and_each_is_in_the_ledger()
    {
        using var api = await Api.ConnectAsync(shared.Product.Address);
        for (var i = 0; i < 5; i++)
        {
            (
                await api.Post("session", new { mail = "edvin@tarn.example", password = "wrong-wrong-wrong" })
            ).Status.ShouldBe(HttpStatusCode.Unauthorized);
        }

        (await api.Post("session", new { mail = "edvin@tarn.example", password = Product.Password })).Problem.ShouldBe(
            "locked-out"
        );
        var unknown = await api.Post("session", new { mail = "nobody@tarn.example", password = "wrong-wrong-wrong" });
        var known = await api.Post("session", new { mail = "pia@tarn.example", password = "wrong-wrong-wrong" });
        unknown.Body.GetProperty("title").GetString().ShouldBe(known.Body.GetProperty("title").GetString());
        using var ines = await shared.Product.SignInAsync("ines");
        (await ines.GetOk("ledger?verb=sign-in-refused&who=edvin@tarn.example"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(6);
    }

    [Fact]
    public async Task A_change_without_the_form_token_is_refused()
    {
        using var ines = await shared.Product.SignInAsync("ines");
        ines.Http.DefaultRequestHeaders.Remove("X-XSRF-TOKEN");
        (await ines.Post("batches", new { seriesId = 1 })).Problem.ShouldBe("antiforgery");
    }

    [Fact]
    public async Task A_person_who_is_switched_off_is_out_at_once()
    {
        using var jonas = await shared.Product.SignInAsync("jonas");
        await shared.Product.AddPersonAsync(jonas, "leaver", "staff", "Island");
        using var leaver = await shared.Product.SignInAsync("leaver");
        (await leaver.Get("items")).Status.ShouldBe(HttpStatusCode.OK);
        var row = (await jonas.GetOk("people"))
            .EnumerateArray()
            .Single(p => p.GetProperty("name").GetString() == "leaver");
        (
            await jonas.Put(
                $"people/{row.GetProperty("id").GetInt64()}",
                new
                {
                    name = "leaver",
                    active = false,
                    remits = Array.Empty<object>(),
                },
                row.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await leaver.Get("items")).Status.ShouldBe(HttpStatusCode.Unauthorized);
        (
            await jonas.Put(
                $"people/{row.GetProperty("id").GetInt64()}",
                new
                {
                    name = "leaver",
                    active = true,
                    remits = Array.Empty<object>(),
                },
                row.GetProperty("revision").GetInt64()
            )
        ).Problem.ShouldBe("stale");
    }

    [GeneratedRegex(@"\{[^}]+\}")]
    private static partial Regex Parameters();

    [GeneratedRegex(@"\d+")]
    private static partial Regex Numbers();

    /// <summary>One product with content on both sides, a series for each and one above both.</summary>
    public sealed class Shared : IAsyncLifetime
    {
        public Product Product { get; } = new();

        public long NorthernSeries { get; private set; }

        public long IslandSeries { get; private set; }

        public long WholeSeries { get; private set; }

        public long NorthernBatch { get; private set; }

        public async ValueTask InitializeAsync()
        {
            await Product.InitializeAsync();
            for (var i = 0; i < 3; i++)
            {
                Product.Write(
                    $"Northern/secret {i.ToString(CultureInfo.InvariantCulture)}.md",
                    "2010-01-01",
                    $"secretword {i}"
                );
                Product.Write(
                    $"Island/open {i.ToString(CultureInfo.InvariantCulture)}.md",
                    "2010-01-01",
                    $"openword {i}"
                );
            }

            var containers = await Product.ScanAsync();
            using var ines = await Product.SignInAsync("ines");
            WholeSeries = await Product.SeriesInForceAsync(
                ines,
                "ALL-010",
                "Tarn Lines",
                [0],
                Product.Definition("Everything")
            );
            IslandSeries = await Product.SeriesInForceAsync(
                ines,
                "ISL-010",
                "Island",
                [containers["Island"]],
                Product.Definition("Island permits")
            );
            NorthernSeries = await Product.SeriesInForceAsync(
                ines,
                "NOR-010",
                "Northern",
                [containers["Northern"]],
                Product.Definition("Northern permits")
            );
            NorthernBatch = (await ines.PostOk("batches", new { seriesId = NorthernSeries }))
                .GetProperty("id")
                .GetInt64();
        }

        public ValueTask DisposeAsync() => Product.DisposeAsync();
    }
}

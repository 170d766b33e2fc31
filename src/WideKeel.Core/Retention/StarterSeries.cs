using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>A series to begin with, for content that is recognised by a sensitive kind.</summary>
/// <param name="Kinds">Names of the kinds that speak for it.</param>
/// <param name="Definition">Its authorities are codes of the <see cref="StarterLibrary"/>.</param>
public sealed record StarterSeries(IReadOnlyList<string> Kinds, SeriesDefinition Definition)
{
    /// <summary>
    /// In our own words; which kind of record a kind of data speaks for is common practice, and what an authority
    /// demands is cited by it.
    /// </summary>
    public static IReadOnlyList<StarterSeries> All { get; } =
    [
        Of(
            ["passport-mrz"],
            "Identity documents of staff",
            "People",
            "Copies of passports and of other documents shown at hiring",
            ["8 CFR 274a.2"],
            [new("field:hired", Cutoff.None, "P3Y"), new("event:crew-member-left", Cutoff.None, "P1Y")]
        ),
        Of(
            ["tax-form"],
            "Tax forms",
            "Finance",
            "Forms to and from tax offices, with what they were made from",
            ["26 CFR 31.6001-1"],
            [new("created", Cutoff.Year, "P4Y")]
        ),
        Of(
            ["uk-nino", "uk-utr"],
            "PAYE records",
            "People",
            "What wages were paid and what was held back from them",
            ["UK PAYE"],
            [new("created", Cutoff.Fiscal, "P3Y")]
        ),
        Of(
            ["us-ssn", "us-itin", "us-ein"],
            "Payroll records",
            "People",
            "Wages, hours and what was held back from them",
            ["29 CFR 516.5", "26 CFR 31.6001-1"],
            [new("created", Cutoff.None, "P4Y")]
        ),
        Of(
            ["payment-card"],
            "Card payments and refunds",
            "Finance",
            "Payments by card; the number itself is better cut out than kept",
            [],
            [new("created", Cutoff.None, "P18M")]
        ),
        Of(
            ["iban", "bic", "au-abn"],
            "Payment details and remittances",
            "Finance",
            "Bank details of suppliers and staff, with the payments made to them",
            [],
            [new("created", Cutoff.Fiscal, "P7Y")]
        ),
        Of(
            ["uk-nhs", "au-medicare"],
            "Health records of staff",
            "People",
            "Fitness certificates, exposure and occupational health",
            ["29 CFR 1910.1020"],
            [new("event:crew-member-left", Cutoff.None, "P30Y")]
        ),
        Of(
            ["au-tfn", "ca-sin", "pl-pesel", "fr-nir", "es-dni", "es-nie", "nl-bsn"],
            "Personnel files",
            "People",
            "Contract, identity and tax numbers of a member of staff",
            [],
            [new("event:crew-member-left", Cutoff.Year, "P6Y")]
        ),
        Of(
            ["imo-number"],
            "Vessel files",
            "Vessels",
            "Papers of one ship, by its IMO number",
            [],
            [new("event:vessel-sold", Cutoff.None, "P10Y")]
        ),
    ];

    /// <summary>
    /// The one that this kind speaks for, or null: a mail address or a telephone number says nothing of what a record
    /// is.
    /// </summary>
    public static StarterSeries? For(string kind) => All.FirstOrDefault(s => s.Kinds.Contains(kind));

    private static StarterSeries Of(
        string[] kinds,
        string title,
        string function,
        string description,
        string[] authorities,
        ClauseText[] clauses
    )
    {
        var manager = new Stage(People.Role.RecordsManager);
        return new(
            kinds,
            new(
                title,
                description,
                "",
                Descriptors.OfFunction(function),
                "",
                authorities,
                false,
                ClauseJoin.Later,
                clauses,
                EndAction.SignOff,
                Grade.Kept,
                false,
                90,
                [manager, manager]
            )
        );
    }
}

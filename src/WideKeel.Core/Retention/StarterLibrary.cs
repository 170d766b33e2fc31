using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>
/// Authorities to begin with: facts only, in our own words. Periods and citations are from memory and say so; whoever
/// uses one verifies it and then says where.
/// </summary>
public static class StarterLibrary
{
    private const string Origin = "From memory, to be verified against the published text";
    private const string UnitedStates = "United States";

    public static IReadOnlyList<(string Code, AuthorityDefinition Definition)> Authorities { get; } =
    [
        Of(
            "17 CFR 240.17a-4 (6 years)",
            "17 CFR 240.17a-4(a)",
            "Securities and Exchange Commission",
            UnitedStates,
            "Broker-dealers: ledgers, customer account records",
            "created",
            Cutoff.None,
            "P6Y"
        ),
        Of(
            "17 CFR 240.17a-4 (3 years)",
            "17 CFR 240.17a-4(b)",
            "Securities and Exchange Commission",
            UnitedStates,
            "Broker-dealers: communications, confirmations, orders",
            "created",
            Cutoff.None,
            "P3Y"
        ),
        Of(
            "29 CFR 516.5",
            "29 CFR 516.5",
            "Department of Labor",
            UnitedStates,
            "Payroll records, from the last date of entry",
            "created",
            Cutoff.None,
            "P3Y"
        ),
        Of(
            "26 CFR 31.6001-1",
            "26 CFR 31.6001-1(e)(2)",
            "Internal Revenue Service",
            UnitedStates,
            "Employment tax records, after the tax is due or paid",
            "event:tax-paid",
            Cutoff.None,
            "P4Y"
        ),
        (
            "8 CFR 274a.2",
            new(
                "8 CFR 274a.2(b)(2)(i)(A)",
                "Department of Homeland Security",
                UnitedStates,
                "Work-eligibility forms: three years after hire or one year after leaving, whichever is later",
                ClauseJoin.Later,
                [new("field:hired", Cutoff.None, "P3Y"), new("event:crew-member-left", Cutoff.None, "P1Y")],
                null,
                "",
                Origin
            )
        ),
        Of(
            "29 CFR 1904.33",
            "29 CFR 1904.33(a)",
            "Occupational Safety and Health Administration",
            UnitedStates,
            "Logs and reports of injuries, after the calendar year that they cover",
            "created",
            Cutoff.Year,
            "P5Y"
        ),
        Of(
            "29 CFR 1910.1020",
            "29 CFR 1910.1020(d)(1)",
            "Occupational Safety and Health Administration",
            UnitedStates,
            "Exposure and medical records: the employment plus thirty years",
            "event:crew-member-left",
            Cutoff.None,
            "P30Y"
        ),
        Of(
            "45 CFR 164.316",
            "45 CFR 164.316(b)(2)(i)",
            "Department of Health and Human Services",
            UnitedStates,
            "Policies and documents under the privacy and security rules",
            "created",
            Cutoff.None,
            "P6Y"
        ),
        Of(
            "17 CFR 210.2-06",
            "17 CFR 210.2-06(a)",
            "Securities and Exchange Commission",
            UnitedStates,
            "Audit and review workpapers, after the audit is concluded",
            "event:audit-concluded",
            Cutoff.None,
            "P7Y"
        ),
        Of(
            "PCI DSS 10.5.1",
            "PCI DSS 4.0, requirement 10.5.1",
            "PCI Security Standards Council",
            "Worldwide, by contract",
            "Audit logs of card data: a year, the last three months at hand",
            "created",
            Cutoff.None,
            "P1Y"
        ),
        Of(
            "23 NYCRR 500.06 (5 years)",
            "23 NYCRR 500.06(b)",
            "Department of Financial Services",
            "New York",
            "Records to reconstruct financial transactions",
            "created",
            Cutoff.None,
            "P5Y"
        ),
        Of(
            "23 NYCRR 500.06 (3 years)",
            "23 NYCRR 500.06(b)",
            "Department of Financial Services",
            "New York",
            "Audit trails to detect cybersecurity events",
            "created",
            Cutoff.None,
            "P3Y"
        ),
        Of(
            "UK PAYE",
            "Income Tax (Pay As You Earn) Regulations 2003, regulation 97",
            "HM Revenue & Customs",
            "United Kingdom",
            "PAYE records, after the tax year that ends on 5 April",
            "created",
            Cutoff.Fiscal,
            "P3Y"
        ),
        Of(
            "MARPOL I/17",
            "MARPOL Annex I, regulation 17.6",
            "International Maritime Organization",
            "Worldwide",
            "Oil record book, after the last entry",
            "field:last-entry",
            Cutoff.None,
            "P3Y"
        ),
        Of(
            "MARPOL V/10",
            "MARPOL Annex V, regulation 10.3",
            "International Maritime Organization",
            "Worldwide",
            "Garbage record book, after the last entry",
            "field:last-entry",
            Cutoff.None,
            "P2Y"
        ),
    ];

    private static (string, AuthorityDefinition) Of(
        string code,
        string citation,
        string issuer,
        string jurisdiction,
        string subject,
        string trigger,
        Cutoff cutoff,
        string period
    ) =>
        (
            code,
            new(
                citation,
                issuer,
                jurisdiction,
                subject,
                ClauseJoin.Later,
                [new(trigger, cutoff, period)],
                null,
                "",
                Origin
            )
        );
}

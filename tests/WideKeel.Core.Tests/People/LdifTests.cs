using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

/// <summary>LDIF, by the examples of RFC 2849 (typed from memory) and an export of a directory server.</summary>
public sealed class LdifTests
{
    /// <summary>RFC 2849, example 1.</summary>
    private const string Two = """
        version: 1
        dn: cn=Barbara Jensen, ou=Product Development, dc=airius, dc=com
        objectclass: top
        objectclass: person
        objectclass: organizationalPerson
        cn: Barbara Jensen
        cn: Barbara J Jensen
        cn: Babs Jensen
        sn: Jensen
        uid: bjensen
        telephonenumber: +1 408 555 1212
        description: A big sailing fan.

        dn: cn=Bjorn Jensen, ou=Accounting, dc=airius, dc=com
        objectclass: top
        objectclass: person
        objectclass: organizationalPerson
        cn: Bjorn Jensen
        sn: Jensen
        telephonenumber: +1 408 555 1212
        """;

    [Fact]
    public void Two_entries_are_two() =>
        Ldif.Read(Two)
            .Value.Select(e => e.Dn)
            .ShouldBe([
                "cn=Barbara Jensen, ou=Product Development, dc=airius, dc=com",
                "cn=Bjorn Jensen, ou=Accounting, dc=airius, dc=com",
            ]);

    [Fact]
    public void An_attribute_has_all_its_values() =>
        Ldif.Read(Two).Value[0].Attributes["cn"].ShouldBe(["Barbara Jensen", "Barbara J Jensen", "Babs Jensen"]);

    /// <summary>RFC 2849, example 2.</summary>
    [Fact]
    public void A_folded_line_goes_on_without_the_space() =>
        Ldif.Read(
                "version: 1\ndn:cn=Barbara Jensen, ou=Product Development, dc=airius, dc=com\nobjectclass:top\n"
                    + "description:Babs is a big sailing fan, and travels extensively in sea\n rch of perfect sailing conditions.\n"
            )
            .Value[0]
            .First("description")
            .ShouldBe("Babs is a big sailing fan, and travels extensively in search of perfect sailing conditions.");

    /// <summary>RFC 2849, example 3.</summary>
    [Fact]
    public void A_value_in_base64_is_read() =>
        Ldif.Read(
                "version: 1\ndn: cn=Gern Jensen, ou=Product Testing, dc=airius, dc=com\nobjectclass: top\ncn: Gern Jensen\n"
                    + "description:: V2hhdCBhIGNhcmVmdWwgcmVhZGVyIHlvdSBhcmUhICBUaGlzIHZhbHVlIGlzIGJhc2UtNjQtZW5jb2RlZCBiZWNhdXNlIGl\n"
                    + " 0IGhhcyBhIGNvbnRyb2wgY2hhcmFjdGVyIGluIGl0IChhIENSKS4NICBCeSB0aGUgd2F5LCB5b3Ugc2hvdWxkIHJlYWxseSBnZXQgb3V0IG1vcmUu\n"
            )
            .Value[0]
            .First("description")
            .ShouldBe(
                "What a careful reader you are!  This value is base-64-encoded because it has a control character in it (a CR)."
                    + "\r  By the way, you should really get out more."
            );

    /// <summary>RFC 2849, example 4: a name in base64, and an attribute with an option for its language.</summary>
    [Fact]
    public void A_name_in_base64_and_options_of_languages_are_read()
    {
        var entry = Ldif.Read(
            "version: 1\ndn:: b3U95Za25qWt6YOoLG89QWlyaXVz\n# dn:: ou=営業部,o=Airius\nobjectclass: organizationalUnit\n"
                + "ou:: 5Za25qWt6YOo\nou;lang-en: Sales\n"
        ).Value[0];
        (entry.Dn, string.Join('|', entry.Attributes["ou"])).ShouldBe(("ou=営業部,o=Airius", "営業部|Sales"));
    }

    /// <summary>RFC 2849, example 5.</summary>
    [Fact]
    public void A_value_in_another_file_is_left_out() =>
        Ldif.Read("dn: cn=Horatio Jensen\ncn: Horatio Jensen\njpegphoto:< file:///usr/local/photos/hjensen.jpg\n")
            .Value[0]
            .First("jpegphoto")
            .ShouldBe("");

    /// <summary>RFC 2849, example 6.</summary>
    [Theory]
    [InlineData("version: 1\ndn: cn=Robert Jensen\nchangetype: delete\n", "Line 3")]
    [InlineData("dn: cn=Paul Jensen\nchangetype: modrdn\nnewrdn: cn=Paula Jensen\n", "Line 2")]
    [InlineData("version: 2\ndn: cn=a\n", "Line 1")]
    [InlineData("cn: a\n", "Line 1")]
    [InlineData("dn: cn=a\n\nno colon here\n", "Line 3")]
    [InlineData("dn: cn=a\ncn:: ***\n", "Line 2")]
    public void What_is_no_content_is_refused_by_its_line(string text, string place) =>
        Ldif.Read(text).Refusal!.Sentence.ShouldContain(place);

    [Fact]
    public void A_record_that_adds_is_content() =>
        Ldif.Read("dn: cn=Fiona Jensen\nchangetype: add\ncn: Fiona Jensen\n").Value.Count.ShouldBe(1);

    private static DirectoryPortion Portion(string text) => LdifDirectory.Of(Ldif.Read(text).Value).Value;

    private const string Office = """
        dn: cn=Ada Berg,ou=people,dc=tarn,dc=example
        objectClass: inetOrgPerson
        cn: Ada Berg
        mail: ada@tarn.example
        departmentNumber: Yard
        title: Master
        manager: CN=Bo Falk, OU=people, DC=tarn, DC=example

        dn: cn=Bo Falk,ou=people,dc=tarn,dc=example
        objectClass: inetOrgPerson
        cn: Bo Falk
        displayName: Bo Falk (yard)
        mail: bo@tarn.example
        employeeType: contractor

        dn: cn=Printer,ou=things,dc=tarn,dc=example
        objectClass: device
        cn: Printer

        dn: cn=Watch,ou=groups,dc=tarn,dc=example
        objectClass: groupOfNames
        cn: Watch
        owner: cn=Ada Berg,ou=people,dc=tarn,dc=example
        member: cn=Bo Falk,ou=people,dc=tarn,dc=example
        member: cn=Bridge,ou=groups,dc=tarn,dc=example

        dn: cn=Bridge,ou=groups,dc=tarn,dc=example
        objectClass: groupOfUniqueNames
        cn: Bridge
        uniqueMember: cn=Ada Berg,ou=people,dc=tarn,dc=example
        uniqueMember:

        """;

    private const string WithPrinter =
        Office
        + "\n"
        + """
            dn: cn=All,ou=groups,dc=tarn,dc=example
            objectClass: groupOfNames
            cn: All
            member: cn=Printer,ou=things,dc=tarn,dc=example
            member: cn=Bo Falk,ou=people,dc=tarn,dc=example

            """;

    [Fact]
    public void A_member_that_is_neither_person_nor_group_is_passed_over_and_named() =>
        Portion(WithPrinter)
            .PassedOver.ShouldBe([
                "“cn=Printer,ou=things,dc=tarn,dc=example” in All: no person with a mail address, and no group.",
            ]);

    [Fact]
    public void The_other_members_of_such_a_group_are_taken() =>
        Portion(WithPrinter).Groups!.Single(g => g.Id == "All").Members.ShouldBe(["bo@tarn.example"]);

    [Fact]
    public void A_person_has_unit_title_and_manager() =>
        Portion(Office)
            .People![0]
            .ShouldBe(
                new OutsidePerson(
                    "ada@tarn.example",
                    "Ada Berg",
                    Unit: "Yard",
                    Title: "Master",
                    Manager: "bo@tarn.example"
                )
            );

    [Fact]
    public void A_contractor_is_a_guest_with_the_name_that_is_displayed() =>
        (Portion(Office).People![1].Kind, Portion(Office).People![1].Name).ShouldBe(("guest", "Bo Falk (yard)"));

    [Fact]
    public void What_is_neither_a_person_nor_a_group_is_passed_over() => Portion(Office).People!.Count.ShouldBe(2);

    [Fact]
    public void A_group_has_its_owner_and_people_and_groups_as_members() =>
        Portion(Office)
            .Groups!.Select(g => $"{g.Id} of {g.Owner}: {string.Join(", ", g.Members)}")
            .ShouldBe(["Watch of ada@tarn.example: bo@tarn.example, Bridge", "Bridge of : ada@tarn.example"]);

    [Fact]
    public void A_member_whom_the_file_does_not_know_is_passed_over_and_named() =>
        LdifDirectory
            .Of(Ldif.Read("dn: cn=W\nobjectClass: groupOfNames\ncn: W\nmember: cn=Nobody\n").Value)
            .Value.PassedOver.ShouldBe(["“cn=Nobody” in W: no entry of this file."]);

    [Fact]
    public void An_address_that_stands_twice_refuses_the_whole() =>
        LdifDirectory
            .Of(
                Ldif.Read(
                    "dn: cn=A\nobjectClass: person\ncn: A\nmail: a@x.example\n\ndn: cn=B\nobjectClass: person\ncn: B\nmail: A@x.example\n"
                ).Value
            )
            .Refusal!.Sentence.ShouldContain("Line 6");

    /// <summary>Fixtures/slapcat.ldif is what slapcat of OpenLDAP wrote of a small directory (make-slapcat.sh).</summary>
    [Fact]
    public void An_export_of_a_directory_server_is_read_whole()
    {
        var portion = Portion(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Fixtures", "slapcat.ldif")));
        string.Join(
                '\n',
                portion
                    .People!.Select(p => $"{p.Id} {p.Name} {p.Unit.Split(' ')[^1]} {p.Manager}")
                    .Concat(portion.Groups!.Select(g => $"{g.Id}: {string.Join(' ', g.Members)}"))
            )
            .ShouldBe(
                """
                dorte.soerensen@tarn.example Dörte Sørensen Islands bo.falk@tarn.example
                bo.falk@tarn.example Bo Falk Yard 
                Pier crew: dorte.soerensen@tarn.example Yard
                Yard: bo.falk@tarn.example
                """
            );
    }
}

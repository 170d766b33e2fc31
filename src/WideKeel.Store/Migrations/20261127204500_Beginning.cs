using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Beginning : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "directory_source",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    TokenHash = table.Column<string>(type: "TEXT", nullable: false),
                    TokenPrefix = table.Column<string>(type: "TEXT", nullable: false),
                    MadeAt = table.Column<long>(type: "INTEGER", nullable: false),
                    LastAt = table.Column<long>(type: "INTEGER", nullable: true),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    ReadState = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_source", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "authority",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Definition = table.Column<string>(type: "TEXT", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_authority", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "broken_copy",
                columns: table => new
                {
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Fault = table.Column<string>(type: "TEXT", nullable: false),
                    FoundAt = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_broken_copy", x => x.Hash);
                });

            migrationBuilder.CreateTable(
                name: "bundle_item",
                columns: table => new
                {
                    BundleId = table.Column<long>(type: "INTEGER", nullable: false),
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    FirstControl = table.Column<long>(type: "INTEGER", nullable: false),
                    Documents = table.Column<string>(type: "TEXT", nullable: true),
                    Left = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_bundle_item", x => new { x.BundleId, x.ItemId });
                });

            migrationBuilder.CreateTable(
                name: "certificate",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Number = table.Column<string>(type: "TEXT", nullable: false),
                    BatchId = table.Column<long>(type: "INTEGER", nullable: false),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    UnitId = table.Column<long>(type: "INTEGER", nullable: false),
                    IssuedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Items = table.Column<int>(type: "INTEGER", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    Document = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_certificate", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "directory_group",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ExternalId = table.Column<string>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    MadeAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    SourceId = table.Column<long>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_group", x => x.Id);
                    table.ForeignKey(
                        name: "FK_directory_group_directory_source_SourceId",
                        column: x => x.SourceId,
                        principalTable: "directory_source",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "directory_person",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Mail = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    Unit = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Manager = table.Column<string>(type: "TEXT", nullable: false),
                    LeavesOn = table.Column<int>(type: "INTEGER", nullable: true),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ExternalId = table.Column<string>(type: "TEXT", nullable: false),
                    FamilyName = table.Column<string>(type: "TEXT", nullable: false),
                    GivenName = table.Column<string>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    MadeAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    SecondFactor = table.Column<bool>(type: "INTEGER", nullable: false),
                    SourceId = table.Column<long>(type: "INTEGER", nullable: false),
                    Sponsor = table.Column<string>(type: "TEXT", nullable: false),
                    Suspended = table.Column<bool>(type: "INTEGER", nullable: false),
                    UserName = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    Version = table.Column<long>(type: "INTEGER", nullable: false),
                    JoinedOn = table.Column<int>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_person", x => x.Id);
                    table.ForeignKey(
                        name: "FK_directory_person_directory_source_SourceId",
                        column: x => x.SourceId,
                        principalTable: "directory_source",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "directory_application",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SourceId = table.Column<long>(type: "INTEGER", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Publisher = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_application", x => x.Id);
                    table.ForeignKey(
                        name: "FK_directory_application_directory_source_SourceId",
                        column: x => x.SourceId,
                        principalTable: "directory_source",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "directory_grant",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SourceId = table.Column<long>(type: "INTEGER", nullable: false),
                    To = table.Column<string>(type: "TEXT", nullable: false),
                    Place = table.Column<string>(type: "TEXT", nullable: false),
                    Role = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_grant", x => x.Id);
                    table.ForeignKey(
                        name: "FK_directory_grant_directory_source_SourceId",
                        column: x => x.SourceId,
                        principalTable: "directory_source",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "directory_place",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SourceId = table.Column<long>(type: "INTEGER", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Parent = table.Column<string>(type: "TEXT", nullable: false),
                    Inherits = table.Column<bool>(type: "INTEGER", nullable: false),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    OutsideAllowed = table.Column<bool>(type: "INTEGER", nullable: false),
                    Sensitive = table.Column<bool>(type: "INTEGER", nullable: false),
                    Region = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_place", x => x.Id);
                    table.ForeignKey(
                        name: "FK_directory_place_directory_source_SourceId",
                        column: x => x.SourceId,
                        principalTable: "directory_source",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "directory_consent",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ApplicationId = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Scopes = table.Column<string>(type: "TEXT", nullable: false),
                    LastUsed = table.Column<int>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_consent", x => x.Id);
                    table.ForeignKey(
                        name: "FK_directory_consent_directory_application_ApplicationId",
                        column: x => x.ApplicationId,
                        principalTable: "directory_application",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "directory_link",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PlaceId = table.Column<long>(type: "INTEGER", nullable: false),
                    To = table.Column<string>(type: "TEXT", nullable: false),
                    Role = table.Column<string>(type: "TEXT", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Ends = table.Column<int>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_link", x => x.Id);
                    table.ForeignKey(
                        name: "FK_directory_link_directory_place_PlaceId",
                        column: x => x.PlaceId,
                        principalTable: "directory_place",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "filing_lesson",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Examples = table.Column<int>(type: "INTEGER", nullable: false),
                    Measures = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_filing_lesson", x => x.Id);
                });

            // The rows lie in the order of their key, as those of hold_item below.
            migrationBuilder.Sql(
                """
                CREATE TABLE activity_day_count (
                    ChannelId INTEGER NOT NULL, Day INTEGER NOT NULL, UnitId INTEGER NOT NULL, ValueId INTEGER NOT NULL,
                    Events INTEGER NOT NULL,
                    CONSTRAINT PK_activity_day_count PRIMARY KEY (ChannelId, Day, UnitId, ValueId)) WITHOUT ROWID;
                CREATE TABLE activity_hour_count (
                    ChannelId INTEGER NOT NULL, Hour INTEGER NOT NULL, UnitId INTEGER NOT NULL, Outcome INTEGER NOT NULL,
                    Events INTEGER NOT NULL,
                    CONSTRAINT PK_activity_hour_count PRIMARY KEY (ChannelId, Hour, UnitId, Outcome)) WITHOUT ROWID;
                """);

            // The rows lie in the order of their key: one tree less, and EF has no word for it.
            migrationBuilder.Sql(
                """
                CREATE TABLE hold_item (
                    ItemId INTEGER NOT NULL, OrderId INTEGER NOT NULL, Pinned INTEGER NOT NULL, Until INTEGER NULL, ReleaseId INTEGER NULL,
                    CONSTRAINT PK_hold_item PRIMARY KEY (ItemId, OrderId)) WITHOUT ROWID;
                """);

            migrationBuilder.CreateTable(
                name: "item_copy",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Facts = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_item_copy", x => new { x.ItemId, x.Hash });
                });

            migrationBuilder.CreateTable(
                name: "item_date",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Date = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_item_date", x => new { x.ItemId, x.Name });
                });

            migrationBuilder.CreateTable(
                name: "item_field",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Value = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_item_field", x => new { x.ItemId, x.Name });
                });

            migrationBuilder.CreateTable(
                name: "item_sensitive",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Possible = table.Column<int>(type: "INTEGER", nullable: false),
                    Likely = table.Column<int>(type: "INTEGER", nullable: false),
                    Certain = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_item_sensitive", x => new { x.ItemId, x.Kind });
                });

            migrationBuilder.CreateTable(
                name: "item_text",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false),
                    Limit = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_item_text", x => x.ItemId);
                });

            migrationBuilder.CreateTable(
                name: "job",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    SubjectId = table.Column<long>(type: "INTEGER", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Unit = table.Column<string>(type: "TEXT", nullable: true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: true),
                    RunsToItsEnd = table.Column<bool>(type: "INTEGER", nullable: false),
                    Changes = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    Cursor = table.Column<string>(type: "TEXT", nullable: true),
                    Done = table.Column<long>(type: "INTEGER", nullable: false),
                    Total = table.Column<long>(type: "INTEGER", nullable: false),
                    Message = table.Column<string>(type: "TEXT", nullable: true),
                    CancelAsked = table.Column<bool>(type: "INTEGER", nullable: false),
                    AskedBy = table.Column<string>(type: "TEXT", nullable: false),
                    AskedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_job", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "ledger",
                columns: table => new
                {
                    Sequence = table.Column<long>(type: "INTEGER", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    LeafHash = table.Column<byte[]>(type: "BLOB", nullable: false),
                    At = table.Column<string>(type: "TEXT", nullable: false, computedColumnSql: "json_extract(body, '$.at')", stored: true),
                    Who = table.Column<string>(type: "TEXT", nullable: false, computedColumnSql: "json_extract(body, '$.who')", stored: true),
                    Verb = table.Column<string>(type: "TEXT", nullable: false, computedColumnSql: "json_extract(body, '$.verb')", stored: true),
                    SubjectKind = table.Column<string>(type: "TEXT", nullable: false, computedColumnSql: "json_extract(body, '$.subject.kind')", stored: true),
                    SubjectId = table.Column<string>(type: "TEXT", nullable: false, computedColumnSql: "json_extract(body, '$.subject.id')", stored: true),
                    SubjectUnit = table.Column<string>(type: "TEXT", nullable: true, computedColumnSql: "json_extract(body, '$.subject.unit')", stored: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_ledger", x => x.Sequence);
                });

            migrationBuilder.CreateTable(
                name: "organisation",
                columns: table => new
                {
                    InnerNetworks = table.Column<string>(type: "TEXT", nullable: false),
                    FactorRoles = table.Column<string>(type: "TEXT", nullable: false),
                    Id = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Zone = table.Column<string>(type: "TEXT", nullable: false),
                    FiscalYearEnd = table.Column<string>(type: "TEXT", nullable: false),
                    WormEnabledAt = table.Column<long>(type: "INTEGER", nullable: true),
                    SmtpHost = table.Column<string>(type: "TEXT", nullable: false),
                    SmtpPort = table.Column<int>(type: "INTEGER", nullable: false),
                    SmtpTls = table.Column<bool>(type: "INTEGER", nullable: false),
                    SmtpUser = table.Column<string>(type: "TEXT", nullable: false),
                    SmtpPassword = table.Column<string>(type: "TEXT", nullable: false),
                    MailFrom = table.Column<string>(type: "TEXT", nullable: false),
                    Address = table.Column<string>(type: "TEXT", nullable: false),
                    CertificateYears = table.Column<int>(type: "INTEGER", nullable: false),
                    DailyRunOn = table.Column<int>(type: "INTEGER", nullable: true),
                    Demo = table.Column<bool>(type: "INTEGER", nullable: false),
                    ActsNeedSecond = table.Column<bool>(type: "INTEGER", nullable: false),
                    DirectoryRevision = table.Column<long>(type: "INTEGER", nullable: false),
                    OwnersMayReview = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_organisation", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "own_kind",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Pattern = table.Column<string>(type: "TEXT", nullable: false),
                    Checksum = table.Column<string>(type: "TEXT", nullable: false),
                    Nearby = table.Column<string>(type: "TEXT", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_own_kind", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "person",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    DisplayName = table.Column<string>(type: "TEXT", nullable: false),
                    Active = table.Column<bool>(type: "INTEGER", nullable: false),
                    CalendarKey = table.Column<string>(type: "TEXT", nullable: true),
                    Version = table.Column<long>(type: "INTEGER", nullable: false),
                    UserName = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    NormalizedUserName = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    Email = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    NormalizedEmail = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    EmailConfirmed = table.Column<bool>(type: "INTEGER", nullable: false),
                    PasswordHash = table.Column<string>(type: "TEXT", nullable: true),
                    PasswordSetById = table.Column<long>(type: "INTEGER", nullable: true),
                    SecurityStamp = table.Column<string>(type: "TEXT", nullable: true),
                    ConcurrencyStamp = table.Column<string>(type: "TEXT", nullable: true),
                    PhoneNumber = table.Column<string>(type: "TEXT", nullable: true),
                    PhoneNumberConfirmed = table.Column<bool>(type: "INTEGER", nullable: false),
                    TwoFactorEnabled = table.Column<bool>(type: "INTEGER", nullable: false),
                    LockoutEnd = table.Column<DateTimeOffset>(type: "TEXT", nullable: true),
                    LockoutEnabled = table.Column<bool>(type: "INTEGER", nullable: false),
                    AccessFailedCount = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_person", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "proposal",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Act = table.Column<string>(type: "TEXT", nullable: false),
                    RestsOn = table.Column<string>(type: "TEXT", nullable: false),
                    Consequences = table.Column<string>(type: "TEXT", nullable: false),
                    Digest = table.Column<string>(type: "TEXT", nullable: false),
                    Unit = table.Column<string>(type: "TEXT", nullable: false),
                    AskedById = table.Column<long>(type: "INTEGER", nullable: false),
                    AskedBy = table.Column<string>(type: "TEXT", nullable: false),
                    AskedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Why = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    DecidedBy = table.Column<string>(type: "TEXT", nullable: true),
                    DecidedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DecidedWhy = table.Column<string>(type: "TEXT", nullable: true),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_proposal", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "source",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Root = table.Column<string>(type: "TEXT", nullable: false),
                    Connected = table.Column<bool>(type: "INTEGER", nullable: false),
                    LastScan = table.Column<long>(type: "INTEGER", nullable: true),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_source", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "sweep_hit",
                columns: table => new
                {
                    RunId = table.Column<long>(type: "INTEGER", nullable: false),
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sweep_hit", x => new { x.RunId, x.ItemId });
                });

            migrationBuilder.CreateTable(
                name: "trigger_event_type",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Description = table.Column<string>(type: "TEXT", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_trigger_event_type", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "unit",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ParentId = table.Column<long>(type: "INTEGER", nullable: true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_unit", x => x.Id);
                    table.ForeignKey(
                        name: "FK_unit_unit_ParentId",
                        column: x => x.ParentId,
                        principalTable: "unit",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateTable(
                name: "unreadable",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SourceId = table.Column<long>(type: "INTEGER", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    SeenByScan = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_unreadable", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "webhook",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Url = table.Column<string>(type: "TEXT", nullable: false),
                    Secret = table.Column<string>(type: "TEXT", nullable: false),
                    Active = table.Column<bool>(type: "INTEGER", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_webhook", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "workspace_version",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_workspace_version", x => new { x.ItemId, x.Number });
                });

            migrationBuilder.CreateTable(
                name: "directory_membership",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    GroupId = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: true),
                    SubgroupId = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_membership", x => x.Id);
                    table.ForeignKey(
                        name: "FK_directory_membership_directory_group_GroupId",
                        column: x => x.GroupId,
                        principalTable: "directory_group",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_directory_membership_directory_group_SubgroupId",
                        column: x => x.SubgroupId,
                        principalTable: "directory_group",
                        principalColumn: "Id");
                    table.ForeignKey(
                        name: "FK_directory_membership_directory_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "directory_person",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateTable(
                name: "AspNetUserClaims",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    UserId = table.Column<long>(type: "INTEGER", nullable: false),
                    ClaimType = table.Column<string>(type: "TEXT", nullable: true),
                    ClaimValue = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_AspNetUserClaims", x => x.Id);
                    table.ForeignKey(
                        name: "FK_AspNetUserClaims_person_UserId",
                        column: x => x.UserId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "AspNetUserLogins",
                columns: table => new
                {
                    LoginProvider = table.Column<string>(type: "TEXT", nullable: false),
                    ProviderKey = table.Column<string>(type: "TEXT", nullable: false),
                    ProviderDisplayName = table.Column<string>(type: "TEXT", nullable: true),
                    UserId = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_AspNetUserLogins", x => new { x.LoginProvider, x.ProviderKey });
                    table.ForeignKey(
                        name: "FK_AspNetUserLogins_person_UserId",
                        column: x => x.UserId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "AspNetUserTokens",
                columns: table => new
                {
                    UserId = table.Column<long>(type: "INTEGER", nullable: false),
                    LoginProvider = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Value = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_AspNetUserTokens", x => new { x.UserId, x.LoginProvider, x.Name });
                    table.ForeignKey(
                        name: "FK_AspNetUserTokens_person_UserId",
                        column: x => x.UserId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "api_key",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Prefix = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Scopes = table.Column<string>(type: "TEXT", nullable: false),
                    CreatedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ExpiresAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RevokedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_api_key", x => x.Id);
                    table.ForeignKey(
                        name: "FK_api_key_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sign_in_session",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Address = table.Column<string>(type: "TEXT", nullable: true),
                    Browser = table.Column<string>(type: "TEXT", nullable: false),
                    BegunAt = table.Column<long>(type: "INTEGER", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sign_in_session", x => x.Id);
                    table.ForeignKey(
                        name: "FK_sign_in_session_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "authenticator",
                columns: table => new
                {
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    ConfirmedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    UsedStep = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_authenticator", x => x.PersonId);
                    table.ForeignKey(
                        name: "FK_authenticator_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "recovery_code",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_recovery_code", x => x.Id);
                    table.ForeignKey(
                        name: "FK_recovery_code_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "message",
                columns: table => new
                {
                    Secret = table.Column<string>(type: "TEXT", nullable: true),
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: true),
                    ToName = table.Column<string>(type: "TEXT", nullable: true),
                    ToMail = table.Column<string>(type: "TEXT", nullable: true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Subject = table.Column<string>(type: "TEXT", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    Because = table.Column<string>(type: "TEXT", nullable: false),
                    Link = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Digest = table.Column<bool>(type: "INTEGER", nullable: false),
                    Attempts = table.Column<int>(type: "INTEGER", nullable: false),
                    NextTryAt = table.Column<long>(type: "INTEGER", nullable: false),
                    SentAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Failure = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_message", x => x.Id);
                    table.ForeignKey(
                        name: "FK_message_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateTable(
                name: "saved_view",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    OwnerId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Query = table.Column<string>(type: "TEXT", nullable: false),
                    Shared = table.Column<bool>(type: "INTEGER", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false),
                    Place = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_saved_view", x => x.Id);
                    table.ForeignKey(
                        name: "FK_saved_view_person_OwnerId",
                        column: x => x.OwnerId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "trigger_event",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    TypeId = table.Column<long>(type: "INTEGER", nullable: false),
                    Subject = table.Column<string>(type: "TEXT", nullable: false),
                    Date = table.Column<int>(type: "INTEGER", nullable: false),
                    Note = table.Column<string>(type: "TEXT", nullable: false),
                    Reference = table.Column<string>(type: "TEXT", nullable: true),
                    ToldBy = table.Column<string>(type: "TEXT", nullable: false),
                    ToldAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RevokedBy = table.Column<string>(type: "TEXT", nullable: true),
                    RevokedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    RevokedWhy = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_trigger_event", x => x.Id);
                    table.ForeignKey(
                        name: "FK_trigger_event_trigger_event_type_TypeId",
                        column: x => x.TypeId,
                        principalTable: "trigger_event_type",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "blanket",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    UnitId = table.Column<long>(type: "INTEGER", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    VersionInForce = table.Column<int>(type: "INTEGER", nullable: false),
                    InForce = table.Column<string>(type: "TEXT", nullable: true),
                    Draft = table.Column<string>(type: "TEXT", nullable: true),
                    DraftBy = table.Column<string>(type: "TEXT", nullable: true),
                    DraftAt = table.Column<long>(type: "INTEGER", nullable: true),
                    EffectById = table.Column<long>(type: "INTEGER", nullable: true),
                    EffectWithId = table.Column<long>(type: "INTEGER", nullable: true),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_blanket", x => x.Id);
                    table.ForeignKey(
                        name: "FK_blanket_unit_UnitId",
                        column: x => x.UnitId,
                        principalTable: "unit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "container",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SourceId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    UnitId = table.Column<long>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_container", x => x.Id);
                    table.ForeignKey(
                        name: "FK_container_source_SourceId",
                        column: x => x.SourceId,
                        principalTable: "source",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_container_unit_UnitId",
                        column: x => x.UnitId,
                        principalTable: "unit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "matter",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Number = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Description = table.Column<string>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    UnitId = table.Column<long>(type: "INTEGER", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    OpenedBy = table.Column<string>(type: "TEXT", nullable: false),
                    OpenedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ClosedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DelayDays = table.Column<int>(type: "INTEGER", nullable: false),
                    ControlPrefix = table.Column<string>(type: "TEXT", nullable: false),
                    NextControl = table.Column<long>(type: "INTEGER", nullable: false),
                    BundleDays = table.Column<int>(type: "INTEGER", nullable: false),
                    DeletionAskedById = table.Column<long>(type: "INTEGER", nullable: true),
                    DeletionAskedBy = table.Column<string>(type: "TEXT", nullable: true),
                    DeletionWhy = table.Column<string>(type: "TEXT", nullable: true),
                    Stays = table.Column<string>(type: "TEXT", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_matter", x => x.Id);
                    table.ForeignKey(
                        name: "FK_matter_unit_UnitId",
                        column: x => x.UnitId,
                        principalTable: "unit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "remit",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    Role = table.Column<string>(type: "TEXT", nullable: false),
                    UnitId = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_remit", x => x.Id);
                    table.ForeignKey(
                        name: "FK_remit_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_remit_unit_UnitId",
                        column: x => x.UnitId,
                        principalTable: "unit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "series",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    UnitId = table.Column<long>(type: "INTEGER", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    VersionInForce = table.Column<int>(type: "INTEGER", nullable: false),
                    InForce = table.Column<string>(type: "TEXT", nullable: true),
                    Draft = table.Column<string>(type: "TEXT", nullable: true),
                    DraftBy = table.Column<string>(type: "TEXT", nullable: true),
                    DraftAt = table.Column<long>(type: "INTEGER", nullable: true),
                    EffectById = table.Column<long>(type: "INTEGER", nullable: true),
                    EffectWithId = table.Column<long>(type: "INTEGER", nullable: true),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_series", x => x.Id);
                    table.ForeignKey(
                        name: "FK_series_unit_UnitId",
                        column: x => x.UnitId,
                        principalTable: "unit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "delivery",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    WebhookId = table.Column<long>(type: "INTEGER", nullable: false),
                    Event = table.Column<string>(type: "TEXT", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Attempts = table.Column<int>(type: "INTEGER", nullable: false),
                    NextTryAt = table.Column<long>(type: "INTEGER", nullable: false),
                    SentAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Failure = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_delivery", x => x.Id);
                    table.ForeignKey(
                        name: "FK_delivery_webhook_WebhookId",
                        column: x => x.WebhookId,
                        principalTable: "webhook",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "custodian",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    Containers = table.Column<string>(type: "TEXT", nullable: false),
                    Authored = table.Column<bool>(type: "INTEGER", nullable: false),
                    AddedBy = table.Column<string>(type: "TEXT", nullable: false),
                    AddedAt = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_custodian", x => x.Id);
                    table.ForeignKey(
                        name: "FK_custodian_directory_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "directory_person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_custodian_matter_MatterId",
                        column: x => x.MatterId,
                        principalTable: "matter",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "hold_order",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    InForce = table.Column<string>(type: "TEXT", nullable: true),
                    Draft = table.Column<string>(type: "TEXT", nullable: true),
                    Containers = table.Column<string>(type: "TEXT", nullable: true),
                    Names = table.Column<string>(type: "TEXT", nullable: false),
                    InForceAt = table.Column<long>(type: "INTEGER", nullable: true),
                    InForceBy = table.Column<string>(type: "TEXT", nullable: true),
                    AppliedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    ReleasedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_hold_order", x => x.Id);
                    table.ForeignKey(
                        name: "FK_hold_order_matter_MatterId",
                        column: x => x.MatterId,
                        principalTable: "matter",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "matter_bundle",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Options = table.Column<string>(type: "TEXT", nullable: false),
                    ControlPrefix = table.Column<string>(type: "TEXT", nullable: false),
                    FirstControl = table.Column<long>(type: "INTEGER", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    AskedBy = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    MadeAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Items = table.Column<long>(type: "INTEGER", nullable: false),
                    Documents = table.Column<long>(type: "INTEGER", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    Left = table.Column<long>(type: "INTEGER", nullable: false),
                    Duplicates = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: true),
                    KeepThrough = table.Column<int>(type: "INTEGER", nullable: false),
                    DeletedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Failure = table.Column<string>(type: "TEXT", nullable: true),
                    Withheld = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_matter_bundle", x => x.Id);
                    table.ForeignKey(
                        name: "FK_matter_bundle_matter_MatterId",
                        column: x => x.MatterId,
                        principalTable: "matter",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "matter_member",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: true),
                    GroupId = table.Column<long>(type: "INTEGER", nullable: true),
                    Part = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_matter_member", x => x.Id);
                    table.ForeignKey(
                        name: "FK_matter_member_directory_group_GroupId",
                        column: x => x.GroupId,
                        principalTable: "directory_group",
                        principalColumn: "Id");
                    table.ForeignKey(
                        name: "FK_matter_member_matter_MatterId",
                        column: x => x.MatterId,
                        principalTable: "matter",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_matter_member_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateTable(
                name: "notice",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Subject = table.Column<string>(type: "TEXT", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    Questions = table.Column<string>(type: "TEXT", nullable: false),
                    RemindDays = table.Column<int>(type: "INTEGER", nullable: false),
                    EscalateDays = table.Column<int>(type: "INTEGER", nullable: false),
                    IssuedBy = table.Column<string>(type: "TEXT", nullable: false),
                    IssuedAt = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_notice", x => x.Id);
                    table.ForeignKey(
                        name: "FK_notice_matter_MatterId",
                        column: x => x.MatterId,
                        principalTable: "matter",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sweep",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Definition = table.Column<string>(type: "TEXT", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sweep", x => x.Id);
                    table.ForeignKey(
                        name: "FK_sweep_matter_MatterId",
                        column: x => x.MatterId,
                        principalTable: "matter",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "batch",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SeriesId = table.Column<long>(type: "INTEGER", nullable: true),
                    BlanketId = table.Column<long>(type: "INTEGER", nullable: true),
                    Month = table.Column<int>(type: "INTEGER", nullable: true),
                    StageSince = table.Column<long>(type: "INTEGER", nullable: false),
                    SeriesVersion = table.Column<int>(type: "INTEGER", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    OpenedBy = table.Column<string>(type: "TEXT", nullable: false),
                    OpenedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    DoneAt = table.Column<long>(type: "INTEGER", nullable: true),
                    CertificateId = table.Column<long>(type: "INTEGER", nullable: true),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_batch", x => x.Id);
                    table.ForeignKey(
                        name: "FK_batch_blanket_BlanketId",
                        column: x => x.BlanketId,
                        principalTable: "blanket",
                        principalColumn: "Id");
                    table.ForeignKey(
                        name: "FK_batch_series_SeriesId",
                        column: x => x.SeriesId,
                        principalTable: "series",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateTable(
                name: "filing_default",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ContainerId = table.Column<long>(type: "INTEGER", nullable: false),
                    Folder = table.Column<string>(type: "TEXT", nullable: false),
                    SeriesId = table.Column<long>(type: "INTEGER", nullable: false),
                    SetById = table.Column<long>(type: "INTEGER", nullable: true),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_filing_default", x => x.Id);
                    table.ForeignKey(
                        name: "FK_filing_default_container_ContainerId",
                        column: x => x.ContainerId,
                        principalTable: "container",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_filing_default_series_SeriesId",
                        column: x => x.SeriesId,
                        principalTable: "series",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "filing_rule",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    SeriesId = table.Column<long>(type: "INTEGER", nullable: false),
                    Definition = table.Column<string>(type: "TEXT", nullable: false),
                    Priority = table.Column<int>(type: "INTEGER", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    EffectById = table.Column<long>(type: "INTEGER", nullable: true),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_filing_rule", x => x.Id);
                    table.ForeignKey(
                        name: "FK_filing_rule_series_SeriesId",
                        column: x => x.SeriesId,
                        principalTable: "series",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "item",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ContainerId = table.Column<long>(type: "INTEGER", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Type = table.Column<string>(type: "TEXT", nullable: false),
                    Author = table.Column<string>(type: "TEXT", nullable: true),
                    Owner = table.Column<string>(type: "TEXT", nullable: true),
                    Subject = table.Column<string>(type: "TEXT", nullable: true),
                    Thread = table.Column<string>(type: "TEXT", nullable: true),
                    Searchable = table.Column<string>(type: "TEXT", nullable: false),
                    HasFormer = table.Column<bool>(type: "INTEGER", nullable: false),
                    Attachments = table.Column<string>(type: "TEXT", nullable: true),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Created = table.Column<int>(type: "INTEGER", nullable: false),
                    Modified = table.Column<int>(type: "INTEGER", nullable: false),
                    ModifiedTicks = table.Column<long>(type: "INTEGER", nullable: false),
                    SeriesId = table.Column<long>(type: "INTEGER", nullable: true),
                    FiledOn = table.Column<int>(type: "INTEGER", nullable: true),
                    FiledBy = table.Column<string>(type: "TEXT", nullable: true),
                    FiledById = table.Column<long>(type: "INTEGER", nullable: true),
                    FiledHow = table.Column<string>(type: "TEXT", nullable: true),
                    FilingRuleId = table.Column<long>(type: "INTEGER", nullable: true),
                    ExtendedUntil = table.Column<int>(type: "INTEGER", nullable: true),
                    ExtendedBy = table.Column<string>(type: "TEXT", nullable: true),
                    ExtendedWhy = table.Column<string>(type: "TEXT", nullable: true),
                    KeepUntil = table.Column<int>(type: "INTEGER", nullable: true),
                    DisposableFrom = table.Column<int>(type: "INTEGER", nullable: true),
                    AtEnd = table.Column<int>(type: "INTEGER", nullable: false),
                    DueActId = table.Column<long>(type: "INTEGER", nullable: true),
                    OwnGrade = table.Column<int>(type: "INTEGER", nullable: false),
                    OwnGradeUntil = table.Column<int>(type: "INTEGER", nullable: true),
                    Floor = table.Column<int>(type: "INTEGER", nullable: true),
                    FlooredOn = table.Column<int>(type: "INTEGER", nullable: true),
                    FloorSettledOn = table.Column<int>(type: "INTEGER", nullable: true),
                    AlteredOn = table.Column<int>(type: "INTEGER", nullable: true),
                    AlteredHow = table.Column<string>(type: "TEXT", nullable: true),
                    DeclaredDates = table.Column<string>(type: "TEXT", nullable: true),
                    BatchId = table.Column<long>(type: "INTEGER", nullable: true),
                    MissingSince = table.Column<long>(type: "INTEGER", nullable: true),
                    DestroyedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    CertificateId = table.Column<long>(type: "INTEGER", nullable: true),
                    HandedOver = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_item", x => x.Id);
                    table.ForeignKey(
                        name: "FK_item_container_ContainerId",
                        column: x => x.ContainerId,
                        principalTable: "container",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_item_series_SeriesId",
                        column: x => x.SeriesId,
                        principalTable: "series",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateTable(
                name: "series_version",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SeriesId = table.Column<long>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Definition = table.Column<string>(type: "TEXT", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Why = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_series_version", x => x.Id);
                    table.ForeignKey(
                        name: "FK_series_version_series_SeriesId",
                        column: x => x.SeriesId,
                        principalTable: "series",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "hold_release",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: false),
                    OrderId = table.Column<long>(type: "INTEGER", nullable: false),
                    Narrowed = table.Column<string>(type: "TEXT", nullable: true),
                    Former = table.Column<string>(type: "TEXT", nullable: true),
                    Why = table.Column<string>(type: "TEXT", nullable: false),
                    DelayDays = table.Column<int>(type: "INTEGER", nullable: false),
                    AskedById = table.Column<long>(type: "INTEGER", nullable: false),
                    AskedBy = table.Column<string>(type: "TEXT", nullable: false),
                    AskedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Fingerprint = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    DecidedBy = table.Column<string>(type: "TEXT", nullable: true),
                    DecidedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DecidedWhy = table.Column<string>(type: "TEXT", nullable: true),
                    Through = table.Column<int>(type: "INTEGER", nullable: true),
                    Items = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_hold_release", x => x.Id);
                    table.ForeignKey(
                        name: "FK_hold_release_hold_order_OrderId",
                        column: x => x.OrderId,
                        principalTable: "hold_order",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "notice_copy",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    NoticeId = table.Column<long>(type: "INTEGER", nullable: false),
                    CustodianId = table.Column<long>(type: "INTEGER", nullable: false),
                    SentAt = table.Column<long>(type: "INTEGER", nullable: false),
                    OpenedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    AcknowledgedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Answers = table.Column<string>(type: "TEXT", nullable: false),
                    RemindedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Reminders = table.Column<int>(type: "INTEGER", nullable: false),
                    EscalatedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_notice_copy", x => x.Id);
                    table.ForeignKey(
                        name: "FK_notice_copy_custodian_CustodianId",
                        column: x => x.CustodianId,
                        principalTable: "custodian",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_notice_copy_notice_NoticeId",
                        column: x => x.NoticeId,
                        principalTable: "notice",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sweep_run",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SweepId = table.Column<long>(type: "INTEGER", nullable: false),
                    Definition = table.Column<string>(type: "TEXT", nullable: false),
                    AskedBy = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    Items = table.Column<long>(type: "INTEGER", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    Figures = table.Column<string>(type: "TEXT", nullable: true),
                    Failure = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sweep_run", x => x.Id);
                    table.ForeignKey(
                        name: "FK_sweep_run_sweep_SweepId",
                        column: x => x.SweepId,
                        principalTable: "sweep",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "bundle",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    BatchId = table.Column<long>(type: "INTEGER", nullable: false),
                    Items = table.Column<int>(type: "INTEGER", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    MadeAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ReceivedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    ReceivedBy = table.Column<string>(type: "TEXT", nullable: true),
                    Receipt = table.Column<string>(type: "TEXT", nullable: true),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_bundle", x => x.Id);
                    table.ForeignKey(
                        name: "FK_bundle_batch_BatchId",
                        column: x => x.BatchId,
                        principalTable: "batch",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sign_off",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    BatchId = table.Column<long>(type: "INTEGER", nullable: false),
                    Stage = table.Column<int>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonName = table.Column<string>(type: "TEXT", nullable: false),
                    Comment = table.Column<string>(type: "TEXT", nullable: false),
                    LinesOpened = table.Column<int>(type: "INTEGER", nullable: false),
                    Lines = table.Column<int>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sign_off", x => x.Id);
                    table.ForeignKey(
                        name: "FK_sign_off_batch_BatchId",
                        column: x => x.BatchId,
                        principalTable: "batch",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "batch_line",
                columns: table => new
                {
                    BatchId = table.Column<long>(type: "INTEGER", nullable: false),
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Mark = table.Column<string>(type: "TEXT", nullable: false),
                    ExtendUntil = table.Column<int>(type: "INTEGER", nullable: true),
                    ExtendWhy = table.Column<string>(type: "TEXT", nullable: true),
                    RefileTo = table.Column<long>(type: "INTEGER", nullable: true),
                    MarkedBy = table.Column<string>(type: "TEXT", nullable: true),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    Outcome = table.Column<string>(type: "TEXT", nullable: true),
                    FirstOpenedBy = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_batch_line", x => new { x.BatchId, x.ItemId });
                    table.ForeignKey(
                        name: "FK_batch_line_batch_BatchId",
                        column: x => x.BatchId,
                        principalTable: "batch",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_batch_line_item_ItemId",
                        column: x => x.ItemId,
                        principalTable: "item",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "filing_mark",
                columns: table => new
                {
                    RuleId = table.Column<long>(type: "INTEGER", nullable: false),
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Right = table.Column<bool>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_filing_mark", x => new { x.RuleId, x.ItemId });
                    table.ForeignKey(
                        name: "FK_filing_mark_filing_rule_RuleId",
                        column: x => x.RuleId,
                        principalTable: "filing_rule",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_filing_mark_item_ItemId",
                        column: x => x.ItemId,
                        principalTable: "item",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "filing_suggestion",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    SeriesId = table.Column<long>(type: "INTEGER", nullable: false),
                    Confidence = table.Column<double>(type: "REAL", nullable: false),
                    Words = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_filing_suggestion", x => x.ItemId);
                    table.ForeignKey(
                        name: "FK_filing_suggestion_item_ItemId",
                        column: x => x.ItemId,
                        principalTable: "item",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_filing_suggestion_series_SeriesId",
                        column: x => x.SeriesId,
                        principalTable: "series",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "question",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    BatchId = table.Column<long>(type: "INTEGER", nullable: false),
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    AskedOfId = table.Column<long>(type: "INTEGER", nullable: false),
                    AskedOf = table.Column<string>(type: "TEXT", nullable: false),
                    AskedById = table.Column<long>(type: "INTEGER", nullable: false),
                    AskedBy = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Answer = table.Column<string>(type: "TEXT", nullable: true),
                    AnsweredAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_question", x => x.Id);
                    table.ForeignKey(
                        name: "FK_question_batch_BatchId",
                        column: x => x.BatchId,
                        principalTable: "batch",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_question_item_ItemId",
                        column: x => x.ItemId,
                        principalTable: "item",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_question_person_AskedOfId",
                        column: x => x.AskedOfId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "workspace_file",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    FollowsId = table.Column<long>(type: "INTEGER", nullable: true),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_workspace_file", x => x.ItemId);
                    table.ForeignKey(
                        name: "FK_workspace_file_item_ItemId",
                        column: x => x.ItemId,
                        principalTable: "item",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "mending_news",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    List = table.Column<string>(type: "TEXT", nullable: false),
                    Tickets = table.Column<bool>(type: "INTEGER", nullable: false),
                    Recipients = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_mending_news", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "mending_seen",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    List = table.Column<string>(type: "TEXT", nullable: false),
                    Line = table.Column<string>(type: "TEXT", nullable: false),
                    Since = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_mending_seen", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "owner_question",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Thing = table.Column<string>(type: "TEXT", nullable: false),
                    Person = table.Column<string>(type: "TEXT", nullable: false),
                    Round = table.Column<int>(type: "INTEGER", nullable: false),
                    AskedOn = table.Column<int>(type: "INTEGER", nullable: false),
                    Answer = table.Column<string>(type: "TEXT", nullable: false),
                    AnsweredAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_owner_question", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "owner_settings",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false),
                    Rule = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_owner_settings", x => x.Id);
                });









            migrationBuilder.CreateIndex(
                name: "IX_mending_news_List",
                table: "mending_news",
                column: "List",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_mending_seen_List_Line",
                table: "mending_seen",
                columns: new[] { "List", "Line" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_owner_question_Thing",
                table: "owner_question",
                column: "Thing");

            migrationBuilder.CreateIndex(
                name: "IX_directory_person_SourceId_UserName",
                table: "directory_person",
                columns: new[] { "SourceId", "UserName" });

            migrationBuilder.CreateIndex(
                name: "IX_directory_group_Key",
                table: "directory_group",
                column: "Key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_directory_group_SourceId",
                table: "directory_group",
                column: "SourceId");

            migrationBuilder.CreateIndex(
                name: "IX_directory_application_Key",
                table: "directory_application",
                column: "Key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_directory_application_SourceId",
                table: "directory_application",
                column: "SourceId");

            migrationBuilder.CreateIndex(
                name: "IX_directory_consent_ApplicationId",
                table: "directory_consent",
                column: "ApplicationId");

            migrationBuilder.CreateIndex(
                name: "IX_directory_grant_Place_To_Role",
                table: "directory_grant",
                columns: new[] { "Place", "To", "Role" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_directory_grant_SourceId",
                table: "directory_grant",
                column: "SourceId");

            migrationBuilder.CreateIndex(
                name: "IX_directory_grant_To",
                table: "directory_grant",
                column: "To");

            migrationBuilder.CreateIndex(
                name: "IX_directory_link_PlaceId",
                table: "directory_link",
                column: "PlaceId");

            migrationBuilder.CreateIndex(
                name: "IX_directory_place_Key",
                table: "directory_place",
                column: "Key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_directory_place_SourceId",
                table: "directory_place",
                column: "SourceId");

            migrationBuilder.CreateIndex(
                name: "IX_directory_source_Name",
                table: "directory_source",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_AspNetUserClaims_UserId",
                table: "AspNetUserClaims",
                column: "UserId");

            migrationBuilder.CreateIndex(
                name: "IX_AspNetUserLogins_UserId",
                table: "AspNetUserLogins",
                column: "UserId");

            migrationBuilder.CreateIndex(
                name: "IX_sign_in_session_Hash",
                table: "sign_in_session",
                column: "Hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_sign_in_session_PersonId",
                table: "sign_in_session",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_recovery_code_PersonId_Hash",
                table: "recovery_code",
                columns: new[] { "PersonId", "Hash" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_api_key_Hash",
                table: "api_key",
                column: "Hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_api_key_PersonId",
                table: "api_key",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_authority_Code",
                table: "authority",
                column: "Code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_batch_BlanketId",
                table: "batch",
                column: "BlanketId");

            migrationBuilder.CreateIndex(
                name: "IX_batch_SeriesId",
                table: "batch",
                column: "SeriesId");

            migrationBuilder.CreateIndex(
                name: "IX_batch_line_BatchId_State",
                table: "batch_line",
                columns: new[] { "BatchId", "State" });

            migrationBuilder.CreateIndex(
                name: "IX_batch_line_ItemId",
                table: "batch_line",
                column: "ItemId");

            migrationBuilder.CreateIndex(
                name: "IX_blanket_Name",
                table: "blanket",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_blanket_UnitId",
                table: "blanket",
                column: "UnitId");

            migrationBuilder.CreateIndex(
                name: "IX_bundle_BatchId",
                table: "bundle",
                column: "BatchId");

            migrationBuilder.CreateIndex(
                name: "IX_certificate_BatchId",
                table: "certificate",
                column: "BatchId");

            migrationBuilder.CreateIndex(
                name: "IX_certificate_Number",
                table: "certificate",
                column: "Number",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_container_SourceId_Name",
                table: "container",
                columns: new[] { "SourceId", "Name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_container_UnitId",
                table: "container",
                column: "UnitId");

            migrationBuilder.CreateIndex(
                name: "IX_custodian_MatterId_PersonId",
                table: "custodian",
                columns: new[] { "MatterId", "PersonId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_custodian_PersonId",
                table: "custodian",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_delivery_SentAt_NextTryAt",
                table: "delivery",
                columns: new[] { "SentAt", "NextTryAt" });

            migrationBuilder.CreateIndex(
                name: "IX_delivery_WebhookId",
                table: "delivery",
                column: "WebhookId");

            migrationBuilder.CreateIndex(
                name: "IX_directory_group_Name",
                table: "directory_group",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_directory_membership_GroupId_PersonId_SubgroupId",
                table: "directory_membership",
                columns: new[] { "GroupId", "PersonId", "SubgroupId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_directory_membership_PersonId",
                table: "directory_membership",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_directory_membership_SubgroupId",
                table: "directory_membership",
                column: "SubgroupId");

            migrationBuilder.CreateIndex(
                name: "IX_directory_person_Mail",
                table: "directory_person",
                column: "Mail",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_filing_default_ContainerId_Folder",
                table: "filing_default",
                columns: new[] { "ContainerId", "Folder" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_filing_default_SeriesId",
                table: "filing_default",
                column: "SeriesId");

            migrationBuilder.CreateIndex(
                name: "IX_filing_mark_ItemId",
                table: "filing_mark",
                column: "ItemId");

            migrationBuilder.CreateIndex(
                name: "IX_filing_rule_Name",
                table: "filing_rule",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_filing_rule_SeriesId",
                table: "filing_rule",
                column: "SeriesId");

            migrationBuilder.CreateIndex(
                name: "IX_filing_suggestion_SeriesId",
                table: "filing_suggestion",
                column: "SeriesId");

            migrationBuilder.CreateIndex(
                name: "IX_hold_item_OrderId_ItemId_Until",
                table: "hold_item",
                columns: new[] { "OrderId", "ItemId", "Until" });

            migrationBuilder.CreateIndex(
                name: "IX_hold_item_ReleaseId",
                table: "hold_item",
                column: "ReleaseId",
                filter: "ReleaseId IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_hold_order_MatterId_Number",
                table: "hold_order",
                columns: new[] { "MatterId", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_hold_order_State",
                table: "hold_order",
                column: "State");

            migrationBuilder.CreateIndex(
                name: "IX_hold_release_OrderId",
                table: "hold_release",
                column: "OrderId");

            migrationBuilder.CreateIndex(
                name: "IX_item_BatchId",
                table: "item",
                column: "BatchId");

            migrationBuilder.CreateIndex(
                name: "IX_item_ContainerId_Path",
                table: "item",
                columns: new[] { "ContainerId", "Path" },
                unique: true,
                filter: "DestroyedAt IS NULL AND MissingSince IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_item_DestroyedAt",
                table: "item",
                column: "DestroyedAt",
                filter: "DestroyedAt IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_item_due",
                table: "item",
                columns: new[] { "DisposableFrom", "BatchId", "DestroyedAt", "KeepUntil", "Bytes", "Modified", "ContainerId" });

            migrationBuilder.CreateIndex(
                name: "IX_item_Hash",
                table: "item",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_item_series",
                table: "item",
                columns: new[] { "SeriesId", "DisposableFrom", "BatchId", "DestroyedAt", "KeepUntil", "ContainerId", "Bytes", "Created" });

            migrationBuilder.CreateIndex(
                name: "IX_item_Subject",
                table: "item",
                column: "Subject");

            migrationBuilder.CreateIndex(
                name: "IX_item_HasFormer",
                table: "item",
                column: "HasFormer",
                filter: "HasFormer");

            migrationBuilder.CreateIndex(
                name: "IX_item_Searchable",
                table: "item",
                column: "Searchable",
                filter: "Searchable <> 'whole'");

            migrationBuilder.CreateIndex(
                name: "IX_item_Thread",
                table: "item",
                column: "Thread");

            migrationBuilder.CreateIndex(
                name: "IX_item_copy_Hash_Bytes",
                table: "item_copy",
                columns: new[] { "Hash", "Bytes" });

            migrationBuilder.CreateIndex(
                name: "IX_item_field_Name",
                table: "item_field",
                column: "Name");

            migrationBuilder.CreateIndex(
                name: "IX_item_sensitive_Kind",
                table: "item_sensitive",
                column: "Kind");

            migrationBuilder.CreateIndex(
                name: "IX_job_State_Id",
                table: "job",
                columns: new[] { "State", "Id" });

            migrationBuilder.CreateIndex(
                name: "IX_ledger_SubjectKind_SubjectId",
                table: "ledger",
                columns: new[] { "SubjectKind", "SubjectId" });

            migrationBuilder.CreateIndex(
                name: "IX_ledger_Verb",
                table: "ledger",
                column: "Verb");

            migrationBuilder.CreateIndex(
                name: "IX_ledger_Who",
                table: "ledger",
                column: "Who");

            migrationBuilder.CreateIndex(
                name: "IX_matter_Number",
                table: "matter",
                column: "Number",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_matter_UnitId",
                table: "matter",
                column: "UnitId");

            migrationBuilder.CreateIndex(
                name: "IX_matter_bundle_MatterId",
                table: "matter_bundle",
                column: "MatterId");

            migrationBuilder.CreateIndex(
                name: "IX_matter_member_GroupId",
                table: "matter_member",
                column: "GroupId");

            migrationBuilder.CreateIndex(
                name: "IX_matter_member_MatterId_PersonId_GroupId",
                table: "matter_member",
                columns: new[] { "MatterId", "PersonId", "GroupId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_matter_member_PersonId",
                table: "matter_member",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_message_PersonId",
                table: "message",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_message_SentAt_NextTryAt",
                table: "message",
                columns: new[] { "SentAt", "NextTryAt" });

            migrationBuilder.CreateIndex(
                name: "IX_notice_MatterId_Version",
                table: "notice",
                columns: new[] { "MatterId", "Version" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_notice_copy_CustodianId",
                table: "notice_copy",
                column: "CustodianId");

            migrationBuilder.CreateIndex(
                name: "IX_notice_copy_NoticeId_CustodianId",
                table: "notice_copy",
                columns: new[] { "NoticeId", "CustodianId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_own_kind_Name",
                table: "own_kind",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "EmailIndex",
                table: "person",
                column: "NormalizedEmail");

            migrationBuilder.CreateIndex(
                name: "UserNameIndex",
                table: "person",
                column: "NormalizedUserName",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_proposal_State",
                table: "proposal",
                column: "State");

            migrationBuilder.CreateIndex(
                name: "IX_question_AskedOfId",
                table: "question",
                column: "AskedOfId");

            migrationBuilder.CreateIndex(
                name: "IX_question_BatchId_ItemId",
                table: "question",
                columns: new[] { "BatchId", "ItemId" });

            migrationBuilder.CreateIndex(
                name: "IX_question_ItemId",
                table: "question",
                column: "ItemId");

            migrationBuilder.CreateIndex(
                name: "IX_remit_PersonId_Role_UnitId",
                table: "remit",
                columns: new[] { "PersonId", "Role", "UnitId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_remit_UnitId",
                table: "remit",
                column: "UnitId");

            migrationBuilder.CreateIndex(
                name: "IX_saved_view_OwnerId_Place_Name",
                table: "saved_view",
                columns: new[] { "OwnerId", "Place", "Name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_series_Code",
                table: "series",
                column: "Code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_series_UnitId",
                table: "series",
                column: "UnitId");

            migrationBuilder.CreateIndex(
                name: "IX_series_version_SeriesId_Number",
                table: "series_version",
                columns: new[] { "SeriesId", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_sign_off_BatchId_PersonId",
                table: "sign_off",
                columns: new[] { "BatchId", "PersonId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_sign_off_BatchId_Stage",
                table: "sign_off",
                columns: new[] { "BatchId", "Stage" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_source_Root",
                table: "source",
                column: "Root",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_sweep_MatterId",
                table: "sweep",
                column: "MatterId");

            migrationBuilder.CreateIndex(
                name: "IX_sweep_run_SweepId",
                table: "sweep_run",
                column: "SweepId");

            migrationBuilder.CreateIndex(
                name: "IX_trigger_event_Reference",
                table: "trigger_event",
                column: "Reference",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_trigger_event_Subject_TypeId",
                table: "trigger_event",
                columns: new[] { "Subject", "TypeId" });

            migrationBuilder.CreateIndex(
                name: "IX_trigger_event_TypeId",
                table: "trigger_event",
                column: "TypeId");

            migrationBuilder.CreateIndex(
                name: "IX_trigger_event_type_Name",
                table: "trigger_event_type",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_unit_ParentId",
                table: "unit",
                column: "ParentId");

            migrationBuilder.CreateIndex(
                name: "IX_unit_Path",
                table: "unit",
                column: "Path",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_unreadable_SourceId_Path",
                table: "unreadable",
                columns: new[] { "SourceId", "Path" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_webhook_Name",
                table: "webhook",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_workspace_file_FollowsId",
                table: "workspace_file",
                column: "FollowsId");

            migrationBuilder.CreateTable(
                name: "due_act",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_due_act", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "due_act_person",
                columns: table => new
                {
                    ActId = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_due_act_person", x => new { x.ActId, x.PersonId });
                    table.ForeignKey(
                        name: "FK_due_act_person_due_act_ActId",
                        column: x => x.ActId,
                        principalTable: "due_act",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "directory_intent",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Actor = table.Column<string>(type: "TEXT", nullable: false),
                    Change = table.Column<string>(type: "TEXT", nullable: false),
                    Because = table.Column<string>(type: "TEXT", nullable: false),
                    Follower = table.Column<string>(type: "TEXT", nullable: false),
                    SubjectId = table.Column<long>(type: "INTEGER", nullable: false),
                    AskedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    CameOutAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Verified = table.Column<bool>(type: "INTEGER", nullable: false),
                    Failure = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_intent", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_directory_intent_Follower_SubjectId",
                table: "directory_intent",
                columns: new[] { "Follower", "SubjectId" });

            migrationBuilder.CreateIndex(
                name: "IX_directory_intent_waiting",
                table: "directory_intent",
                column: "Id",
                filter: "\"CameOutAt\" IS NULL");

            migrationBuilder.CreateTable(
                name: "person_link",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    SubjectId = table.Column<long>(type: "INTEGER", nullable: false),
                    Mail = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    MadeAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ExpiresAt = table.Column<long>(type: "INTEGER", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    WasMailed = table.Column<bool>(type: "INTEGER", nullable: false),
                    CodeHash = table.Column<string>(type: "TEXT", nullable: true),
                    CodeSentAt = table.Column<long>(type: "INTEGER", nullable: true),
                    WrongCodes = table.Column<int>(type: "INTEGER", nullable: false),
                    BrowserHash = table.Column<string>(type: "TEXT", nullable: true),
                    BrowserUntil = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_person_link", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_person_link_Hash",
                table: "person_link",
                column: "Hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_person_link_Kind_SubjectId",
                table: "person_link",
                columns: new[] { "Kind", "SubjectId" });

            migrationBuilder.Sql("CREATE TRIGGER ledger_no_update BEFORE UPDATE ON ledger BEGIN SELECT RAISE(ABORT, 'the ledger is append-only'); END;");
            migrationBuilder.Sql("CREATE TRIGGER ledger_no_delete BEFORE DELETE ON ledger BEGIN SELECT RAISE(ABORT, 'the ledger is append-only'); END;");
            // INSERT OR REPLACE would remove a row without the delete trigger; entries come in order or not at all.
            migrationBuilder.Sql("CREATE TRIGGER ledger_in_order BEFORE INSERT ON ledger WHEN NEW.Sequence <> (SELECT COALESCE(MAX(Sequence), 0) + 1 FROM ledger) BEGIN SELECT RAISE(ABORT, 'the ledger is append-only'); END;");
            migrationBuilder.Sql(WideKeel.Store.Content.FullText.Create);

            migrationBuilder.CreateTable(
                name: "activity_value",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Column = table.Column<string>(type: "TEXT", nullable: false),
                    Value = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_activity_value", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "channel",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Feed = table.Column<string>(type: "TEXT", nullable: false),
                    Format = table.Column<string>(type: "TEXT", nullable: false),
                    Mapping = table.Column<string>(type: "TEXT", nullable: false),
                    Admits = table.Column<string>(type: "TEXT", nullable: false),
                    Retention = table.Column<string>(type: "TEXT", nullable: false),
                    DaysAtHand = table.Column<int>(type: "INTEGER", nullable: false),
                    LatenessHours = table.Column<int>(type: "INTEGER", nullable: false),
                    OpenToAnalysts = table.Column<bool>(type: "INTEGER", nullable: false),
                    KeyHash = table.Column<string>(type: "TEXT", nullable: true),
                    KeyPrefix = table.Column<string>(type: "TEXT", nullable: false),
                    Folder = table.Column<string>(type: "TEXT", nullable: false),
                    Port = table.Column<int>(type: "INTEGER", nullable: false),
                    CertificateFile = table.Column<string>(type: "TEXT", nullable: false),
                    Connected = table.Column<bool>(type: "INTEGER", nullable: false),
                    LastEventAt = table.Column<long>(type: "INTEGER", nullable: true),
                    LastReceivedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    SkewMilliseconds = table.Column<long>(type: "INTEGER", nullable: false),
                    Taken = table.Column<long>(type: "INTEGER", nullable: false),
                    Duplicates = table.Column<long>(type: "INTEGER", nullable: false),
                    NotAdmitted = table.Column<long>(type: "INTEGER", nullable: false),
                    TooOld = table.Column<long>(type: "INTEGER", nullable: false),
                    Rejected = table.Column<long>(type: "INTEGER", nullable: false),
                    LedgerRead = table.Column<long>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_channel", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "investigation",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Summary = table.Column<string>(type: "TEXT", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    OpenedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    FrozenAt = table.Column<long>(type: "INTEGER", nullable: true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: true),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_investigation", x => x.Id);
                    table.ForeignKey(
                        name: "FK_investigation_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "network",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Ranges = table.Column<string>(type: "TEXT", nullable: false),
                    Egress = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_network", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "place",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Range = table.Column<string>(type: "TEXT", nullable: false),
                    Country = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Latitude = table.Column<double>(type: "REAL", nullable: true),
                    Longitude = table.Column<double>(type: "REAL", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_place", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "statement",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Sql = table.Column<string>(type: "TEXT", nullable: false),
                    Days = table.Column<int>(type: "INTEGER", nullable: true),
                    LastFailed = table.Column<bool>(type: "INTEGER", nullable: false),
                    LastRunOn = table.Column<int>(type: "INTEGER", nullable: true),
                    LastSaid = table.Column<string>(type: "TEXT", nullable: true),
                    Parameters = table.Column<string>(type: "TEXT", nullable: false),
                    Rhythm = table.Column<string>(type: "TEXT", nullable: true),
                    SeenRows = table.Column<byte[]>(type: "BLOB", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_statement", x => x.Id);
                    table.ForeignKey(
                        name: "FK_statement_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "activity_event",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ChannelId = table.Column<long>(type: "INTEGER", nullable: false),
                    ChannelName = table.Column<long>(type: "INTEGER", nullable: true),
                    SourceId = table.Column<string>(type: "TEXT", nullable: false),
                    Time = table.Column<long>(type: "INTEGER", nullable: false),
                    Received = table.Column<long>(type: "INTEGER", nullable: false),
                    UnitId = table.Column<long>(type: "INTEGER", nullable: false),
                    Actor = table.Column<long>(type: "INTEGER", nullable: true),
                    ActorKind = table.Column<long>(type: "INTEGER", nullable: true),
                    Category = table.Column<long>(type: "INTEGER", nullable: true),
                    Action = table.Column<long>(type: "INTEGER", nullable: true),
                    Object = table.Column<long>(type: "INTEGER", nullable: true),
                    Container = table.Column<long>(type: "INTEGER", nullable: true),
                    Target = table.Column<long>(type: "INTEGER", nullable: true),
                    Address = table.Column<long>(type: "INTEGER", nullable: true),
                    Network = table.Column<long>(type: "INTEGER", nullable: true),
                    Country = table.Column<long>(type: "INTEGER", nullable: true),
                    Place = table.Column<long>(type: "INTEGER", nullable: true),
                    Latitude = table.Column<double>(type: "REAL", nullable: true),
                    Longitude = table.Column<double>(type: "REAL", nullable: true),
                    Device = table.Column<long>(type: "INTEGER", nullable: true),
                    Application = table.Column<long>(type: "INTEGER", nullable: true),
                    Outcome = table.Column<long>(type: "INTEGER", nullable: true),
                    Code = table.Column<long>(type: "INTEGER", nullable: true),
                    Amount = table.Column<double>(type: "REAL", nullable: true),
                    Unit = table.Column<long>(type: "INTEGER", nullable: true),
                    Title = table.Column<long>(type: "INTEGER", nullable: true),
                    Details = table.Column<string>(type: "TEXT", nullable: true),
                    SegmentId = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_activity_event", x => x.Id);
                    table.ForeignKey(
                        name: "FK_activity_event_channel_ChannelId",
                        column: x => x.ChannelId,
                        principalTable: "channel",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "activity_file",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ChannelId = table.Column<long>(type: "INTEGER", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    Read = table.Column<long>(type: "INTEGER", nullable: false),
                    Lines = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_activity_file", x => x.Id);
                    table.ForeignKey(
                        name: "FK_activity_file_channel_ChannelId",
                        column: x => x.ChannelId,
                        principalTable: "channel",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "activity_rejected",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ChannelId = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Line = table.Column<long>(type: "INTEGER", nullable: false),
                    From = table.Column<string>(type: "TEXT", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    Beginning = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_activity_rejected", x => x.Id);
                    table.ForeignKey(
                        name: "FK_activity_rejected_channel_ChannelId",
                        column: x => x.ChannelId,
                        principalTable: "channel",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "channel_reader",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ChannelId = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_channel_reader", x => x.Id);
                    table.ForeignKey(
                        name: "FK_channel_reader_channel_ChannelId",
                        column: x => x.ChannelId,
                        principalTable: "channel",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_channel_reader_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "segment",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ChannelId = table.Column<long>(type: "INTEGER", nullable: false),
                    Day = table.Column<int>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Events = table.Column<long>(type: "INTEGER", nullable: false),
                    First = table.Column<long>(type: "INTEGER", nullable: false),
                    Last = table.Column<long>(type: "INTEGER", nullable: false),
                    Root = table.Column<byte[]>(type: "BLOB", nullable: false),
                    FileHash = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_segment", x => x.Id);
                    table.ForeignKey(
                        name: "FK_segment_channel_ChannelId",
                        column: x => x.ChannelId,
                        principalTable: "channel",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "investigation_event",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    InvestigationId = table.Column<long>(type: "INTEGER", nullable: false),
                    EventId = table.Column<long>(type: "INTEGER", nullable: false),
                    Time = table.Column<long>(type: "INTEGER", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    Note = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_investigation_event", x => x.Id);
                    table.ForeignKey(
                        name: "FK_investigation_event_investigation_InvestigationId",
                        column: x => x.InvestigationId,
                        principalTable: "investigation",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_activity_event_Actor_Time",
                table: "activity_event",
                columns: new[] { "Actor", "Time" });

            migrationBuilder.CreateIndex(
                name: "IX_activity_event_Address_Time",
                table: "activity_event",
                columns: new[] { "Address", "Time" });

            migrationBuilder.CreateIndex(
                name: "IX_activity_event_ChannelId_SourceId",
                table: "activity_event",
                columns: new[] { "ChannelId", "SourceId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_activity_event_Object_Time",
                table: "activity_event",
                columns: new[] { "Object", "Time" });

            migrationBuilder.CreateIndex(
                name: "IX_activity_event_Action_Time_ChannelId_UnitId_Outcome",
                table: "activity_event",
                columns: new[] { "Action", "Time", "ChannelId", "UnitId", "Outcome" });

            migrationBuilder.CreateIndex(
                name: "IX_activity_event_Time",
                table: "activity_event",
                column: "Time");

            migrationBuilder.CreateIndex(
                name: "IX_activity_event_unsealed",
                table: "activity_event",
                columns: new[] { "ChannelId", "Time" },
                filter: "\"SegmentId\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_activity_file_ChannelId_Path",
                table: "activity_file",
                columns: new[] { "ChannelId", "Path" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_activity_rejected_ChannelId",
                table: "activity_rejected",
                column: "ChannelId");

            migrationBuilder.CreateIndex(
                name: "IX_activity_value_Column_Value",
                table: "activity_value",
                columns: new[] { "Column", "Value" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_channel_KeyHash",
                table: "channel",
                column: "KeyHash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_channel_Name",
                table: "channel",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_channel_reader_ChannelId_PersonId",
                table: "channel_reader",
                columns: new[] { "ChannelId", "PersonId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_channel_reader_PersonId",
                table: "channel_reader",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_investigation_PersonId",
                table: "investigation",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_investigation_event_InvestigationId_EventId",
                table: "investigation_event",
                columns: new[] { "InvestigationId", "EventId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_network_Name",
                table: "network",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_place_Range",
                table: "place",
                column: "Range",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_segment_ChannelId_Day_Number",
                table: "segment",
                columns: new[] { "ChannelId", "Day", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_statement_PersonId_Name",
                table: "statement",
                columns: new[] { "PersonId", "Name" },
                unique: true);

            migrationBuilder.CreateTable(
                name: "action_severity",
                columns: table => new
                {
                    Action = table.Column<string>(type: "TEXT", nullable: false),
                    Severity = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_action_severity", x => x.Action);
                });

            migrationBuilder.CreateTable(
                name: "risk_weight",
                columns: table => new
                {
                    Factor = table.Column<string>(type: "TEXT", nullable: false),
                    Weight = table.Column<double>(type: "REAL", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_risk_weight", x => x.Factor);
                });

            migrationBuilder.CreateTable(
                name: "watch",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Definition = table.Column<string>(type: "TEXT", nullable: false),
                    Severity = table.Column<string>(type: "TEXT", nullable: false),
                    On = table.Column<bool>(type: "INTEGER", nullable: false),
                    Since = table.Column<long>(type: "INTEGER", nullable: false),
                    Recipients = table.Column<string>(type: "TEXT", nullable: false),
                    Words = table.Column<string>(type: "TEXT", nullable: false),
                    DailyCap = table.Column<int>(type: "INTEGER", nullable: false),
                    Act = table.Column<string>(type: "TEXT", nullable: true),
                    JudgedTo = table.Column<long>(type: "INTEGER", nullable: false),
                    JudgeWhole = table.Column<bool>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_watch", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "alert",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    WatchId = table.Column<long>(type: "INTEGER", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: true),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    EventId = table.Column<string>(type: "TEXT", nullable: true),
                    ChannelId = table.Column<long>(type: "INTEGER", nullable: true),
                    UnitId = table.Column<long>(type: "INTEGER", nullable: true),
                    First = table.Column<string>(type: "TEXT", nullable: true),
                    Measure = table.Column<double>(type: "REAL", nullable: true),
                    Why = table.Column<string>(type: "TEXT", nullable: false),
                    Actor = table.Column<string>(type: "TEXT", nullable: true),
                    Address = table.Column<string>(type: "TEXT", nullable: true),
                    Object = table.Column<string>(type: "TEXT", nullable: true),
                    Severity = table.Column<string>(type: "TEXT", nullable: false),
                    Risk = table.Column<int>(type: "INTEGER", nullable: false),
                    Factors = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    Useful = table.Column<bool>(type: "INTEGER", nullable: true),
                    OwnerId = table.Column<long>(type: "INTEGER", nullable: true),
                    RaisedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    AnsweredAt = table.Column<long>(type: "INTEGER", nullable: true),
                    CaseId = table.Column<long>(type: "INTEGER", nullable: false),
                    FoldedInto = table.Column<long>(type: "INTEGER", nullable: true),
                    Informed = table.Column<bool>(type: "INTEGER", nullable: false),
                    Capped = table.Column<bool>(type: "INTEGER", nullable: false),
                    Withdrawn = table.Column<bool>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_alert", x => x.Id);
                    table.ForeignKey(
                        name: "FK_alert_watch_WatchId",
                        column: x => x.WatchId,
                        principalTable: "watch",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "alert_act",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    AlertId = table.Column<long>(type: "INTEGER", nullable: false),
                    Change = table.Column<string>(type: "TEXT", nullable: false),
                    Words = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Verified = table.Column<bool>(type: "INTEGER", nullable: false),
                    Failure = table.Column<string>(type: "TEXT", nullable: true),
                    UndoneAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Waits = table.Column<bool>(type: "INTEGER", nullable: false),
                    AskedById = table.Column<long>(type: "INTEGER", nullable: true),
                    UndoesId = table.Column<long>(type: "INTEGER", nullable: true),
                    DecidedBy = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_alert_act", x => x.Id);
                    table.ForeignKey(
                        name: "FK_alert_act_alert_AlertId",
                        column: x => x.AlertId,
                        principalTable: "alert",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_alert_At",
                table: "alert",
                column: "At");

            migrationBuilder.CreateIndex(
                name: "IX_alert_CaseId",
                table: "alert",
                column: "CaseId");

            migrationBuilder.CreateIndex(
                name: "IX_alert_FoldedInto",
                table: "alert",
                column: "FoldedInto");

            migrationBuilder.CreateIndex(
                name: "IX_alert_WatchId_Key_At",
                table: "alert",
                columns: new[] { "WatchId", "Key", "At" });

            migrationBuilder.CreateIndex(
                name: "IX_alert_act_AlertId",
                table: "alert_act",
                column: "AlertId");

            migrationBuilder.CreateIndex(
                name: "IX_watch_Name",
                table: "watch",
                column: "Name",
                unique: true);

            migrationBuilder.CreateTable(
                name: "review",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Definition = table.Column<string>(type: "TEXT", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    MadeAt = table.Column<long>(type: "INTEGER", nullable: false),
                    NextOn = table.Column<int>(type: "INTEGER", nullable: true),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_review", x => x.Id);
                    table.ForeignKey(
                        name: "FK_review_person_PersonId",
                        column: x => x.PersonId,
                        principalTable: "person",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "toxic_pair",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    First = table.Column<string>(type: "TEXT", nullable: false),
                    FirstRole = table.Column<string>(type: "TEXT", nullable: false),
                    Second = table.Column<string>(type: "TEXT", nullable: false),
                    SecondRole = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_toxic_pair", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "review_round",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ReviewId = table.Column<long>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    StartedOn = table.Column<int>(type: "INTEGER", nullable: false),
                    EndsOn = table.Column<int>(type: "INTEGER", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Report = table.Column<string>(type: "TEXT", nullable: false),
                    ReportHash = table.Column<string>(type: "TEXT", nullable: false),
                    Addenda = table.Column<string>(type: "TEXT", nullable: false, defaultValue: "[]"),
                    Version = table.Column<long>(type: "INTEGER", nullable: false),
                    Stage = table.Column<int>(type: "INTEGER", nullable: false),
                    Stamped = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_review_round", x => x.Id);
                    table.ForeignKey(
                        name: "FK_review_round_review_ReviewId",
                        column: x => x.ReviewId,
                        principalTable: "review",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "review_line",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RoundId = table.Column<long>(type: "INTEGER", nullable: false),
                    Person = table.Column<string>(type: "TEXT", nullable: false),
                    What = table.Column<string>(type: "TEXT", nullable: false),
                    Roles = table.Column<string>(type: "TEXT", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    Reviewer = table.Column<string>(type: "TEXT", nullable: false),
                    AdviseRemoval = table.Column<bool>(type: "INTEGER", nullable: false),
                    Grounds = table.Column<string>(type: "TEXT", nullable: false),
                    Chosen = table.Column<string>(type: "TEXT", nullable: false, defaultValue: "[]"),
                    Decision = table.Column<string>(type: "TEXT", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    DecidedBy = table.Column<string>(type: "TEXT", nullable: false),
                    DecidedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Opened = table.Column<bool>(type: "INTEGER", nullable: false),
                    BySilence = table.Column<bool>(type: "INTEGER", nullable: false),
                    Applied = table.Column<bool>(type: "INTEGER", nullable: false),
                    Attempts = table.Column<int>(type: "INTEGER", nullable: false),
                    Failure = table.Column<string>(type: "TEXT", nullable: true),
                    Version = table.Column<long>(type: "INTEGER", nullable: false),
                    Former = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_review_line", x => x.Id);
                    table.ForeignKey(
                        name: "FK_review_line_review_round_RoundId",
                        column: x => x.RoundId,
                        principalTable: "review_round",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "reviewer_link",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RoundId = table.Column<long>(type: "INTEGER", nullable: false),
                    Mail = table.Column<string>(type: "TEXT", nullable: false),
                    SentAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemindedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_reviewer_link", x => x.Id);
                    table.ForeignKey(
                        name: "FK_reviewer_link_review_round_RoundId",
                        column: x => x.RoundId,
                        principalTable: "review_round",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_review_PersonId",
                table: "review",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_review_line_Person",
                table: "review_line",
                column: "Person");

            migrationBuilder.CreateIndex(
                name: "IX_review_line_RoundId_Reviewer",
                table: "review_line",
                columns: new[] { "RoundId", "Reviewer" });

            migrationBuilder.CreateIndex(
                name: "IX_review_round_ReviewId_Number",
                table: "review_round",
                columns: new[] { "ReviewId", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_reviewer_link_RoundId_Mail",
                table: "reviewer_link",
                columns: new[] { "RoundId", "Mail" },
                unique: true);

            migrationBuilder.CreateTable(
                name: "assurance",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Published = table.Column<bool>(type: "INTEGER", nullable: false),
                    Words = table.Column<string>(type: "TEXT", nullable: false),
                    Frameworks = table.Column<string>(type: "TEXT", nullable: false),
                    ControlsShown = table.Column<bool>(type: "INTEGER", nullable: false),
                    PoliciesShown = table.Column<bool>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_assurance", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "control",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Says = table.Column<string>(type: "TEXT", nullable: false),
                    Area = table.Column<string>(type: "TEXT", nullable: false),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    Units = table.Column<string>(type: "TEXT", nullable: false),
                    Weight = table.Column<decimal>(type: "TEXT", nullable: false),
                    Effort = table.Column<decimal>(type: "TEXT", nullable: false),
                    NotApplicable = table.Column<string>(type: "TEXT", nullable: false),
                    AskedById = table.Column<long>(type: "INTEGER", nullable: true),
                    ApprovedBy = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false),
                    RetiredOn = table.Column<int>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_control", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "framework",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<string>(type: "TEXT", nullable: false),
                    Source = table.Column<string>(type: "TEXT", nullable: false),
                    AdoptedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Imports = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_framework", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "gauge",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Measure = table.Column<string>(type: "TEXT", nullable: false),
                    Target = table.Column<double>(type: "REAL", nullable: false),
                    Warning = table.Column<double>(type: "REAL", nullable: false),
                    Alarm = table.Column<double>(type: "REAL", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_gauge", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "register_entry",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Says = table.Column<string>(type: "TEXT", nullable: false),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    Due = table.Column<int>(type: "INTEGER", nullable: true),
                    DoneOn = table.Column<int>(type: "INTEGER", nullable: true),
                    Likelihood = table.Column<int>(type: "INTEGER", nullable: false),
                    Impact = table.Column<int>(type: "INTEGER", nullable: false),
                    LikelihoodAfter = table.Column<int>(type: "INTEGER", nullable: false),
                    ImpactAfter = table.Column<int>(type: "INTEGER", nullable: false),
                    Treatment = table.Column<string>(type: "TEXT", nullable: false),
                    Mark = table.Column<string>(type: "TEXT", nullable: false),
                    Controls = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_register_entry", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "control_part",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ControlId = table.Column<long>(type: "INTEGER", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Weight = table.Column<decimal>(type: "TEXT", nullable: false),
                    Measure = table.Column<string>(type: "TEXT", nullable: false),
                    Expected = table.Column<double>(type: "REAL", nullable: false),
                    Period = table.Column<string>(type: "TEXT", nullable: false),
                    Recurrence = table.Column<string>(type: "TEXT", nullable: false),
                    First = table.Column<int>(type: "INTEGER", nullable: true),
                    Doer = table.Column<string>(type: "TEXT", nullable: false),
                    Deputy = table.Column<string>(type: "TEXT", nullable: false),
                    SeenBy = table.Column<string>(type: "TEXT", nullable: false),
                    RetiredOn = table.Column<int>(type: "INTEGER", nullable: true),
                    NeedsReview = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_control_part", x => x.Id);
                    table.ForeignKey(
                        name: "FK_control_part_control_ControlId",
                        column: x => x.ControlId,
                        principalTable: "control",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    FrameworkId = table.Column<long>(type: "INTEGER", nullable: false),
                    Auditor = table.Column<string>(type: "TEXT", nullable: false),
                    PeriodFrom = table.Column<int>(type: "INTEGER", nullable: false),
                    PeriodThrough = table.Column<int>(type: "INTEGER", nullable: false),
                    StartsOn = table.Column<int>(type: "INTEGER", nullable: false),
                    EndsOn = table.Column<int>(type: "INTEGER", nullable: false),
                    ClosedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_framework_FrameworkId",
                        column: x => x.FrameworkId,
                        principalTable: "framework",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "readiness_ground",
                columns: table => new
                {
                    Day = table.Column<int>(type: "INTEGER", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_readiness_ground", x => x.Day);
                });

            migrationBuilder.CreateTable(
                name: "readiness_day",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    FrameworkId = table.Column<long>(type: "INTEGER", nullable: false),
                    Day = table.Column<int>(type: "INTEGER", nullable: false),
                    Readiness = table.Column<decimal>(type: "TEXT", nullable: false),
                    Moved = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_readiness_day", x => x.Id);
                    table.ForeignKey(
                        name: "FK_readiness_day_framework_FrameworkId",
                        column: x => x.FrameworkId,
                        principalTable: "framework",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "requirement",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    FrameworkId = table.Column<long>(type: "INTEGER", nullable: false),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Group = table.Column<string>(type: "TEXT", nullable: false),
                    Weight = table.Column<decimal>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_requirement", x => x.Id);
                    table.ForeignKey(
                        name: "FK_requirement_framework_FrameworkId",
                        column: x => x.FrameworkId,
                        principalTable: "framework",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "gauge_day",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    GaugeId = table.Column<long>(type: "INTEGER", nullable: false),
                    Day = table.Column<int>(type: "INTEGER", nullable: false),
                    Right = table.Column<int>(type: "INTEGER", nullable: false),
                    Of = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_gauge_day", x => x.Id);
                    table.ForeignKey(
                        name: "FK_gauge_day_gauge_GaugeId",
                        column: x => x.GaugeId,
                        principalTable: "gauge",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "own_measure",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Says = table.Column<string>(type: "TEXT", nullable: false),
                    Area = table.Column<string>(type: "TEXT", nullable: false),
                    Question = table.Column<string>(type: "TEXT", nullable: false),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false),
                    Least = table.Column<int>(type: "INTEGER", nullable: true),
                    Most = table.Column<int>(type: "INTEGER", nullable: true),
                    Over = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_own_measure", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "gauge_exclusion",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    GaugeId = table.Column<long>(type: "INTEGER", nullable: false),
                    Subject = table.Column<string>(type: "TEXT", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    EndsOn = table.Column<int>(type: "INTEGER", nullable: true),
                    By = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_gauge_exclusion", x => x.Id);
                    table.ForeignKey(
                        name: "FK_gauge_exclusion_gauge_GaugeId",
                        column: x => x.GaugeId,
                        principalTable: "gauge",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "part_proof",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PartId = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Day = table.Column<int>(type: "INTEGER", nullable: false),
                    Passed = table.Column<bool>(type: "INTEGER", nullable: false),
                    Says = table.Column<string>(type: "TEXT", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    FileName = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    ById = table.Column<long>(type: "INTEGER", nullable: true),
                    CoversFrom = table.Column<int>(type: "INTEGER", nullable: true),
                    CoversThrough = table.Column<int>(type: "INTEGER", nullable: true),
                    ReviewedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    ReviewedBy = table.Column<string>(type: "TEXT", nullable: false),
                    WithdrawnAt = table.Column<long>(type: "INTEGER", nullable: true),
                    WithdrawnBy = table.Column<string>(type: "TEXT", nullable: false),
                    WithdrawnWhy = table.Column<string>(type: "TEXT", nullable: false),
                    BrokenSince = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_part_proof", x => x.Id);
                    table.ForeignKey(
                        name: "FK_part_proof_control_part_PartId",
                        column: x => x.PartId,
                        principalTable: "control_part",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "audit_finding",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    AuditId = table.Column<long>(type: "INTEGER", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Severity = table.Column<string>(type: "TEXT", nullable: false),
                    Control = table.Column<string>(type: "TEXT", nullable: false),
                    Action = table.Column<string>(type: "TEXT", nullable: false),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    Due = table.Column<int>(type: "INTEGER", nullable: true),
                    DoneOn = table.Column<int>(type: "INTEGER", nullable: true),
                    FoundBy = table.Column<string>(type: "TEXT", nullable: false),
                    FoundById = table.Column<long>(type: "INTEGER", nullable: false),
                    Response = table.Column<string>(type: "TEXT", nullable: false),
                    DoneById = table.Column<long>(type: "INTEGER", nullable: true),
                    VerifiedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    VerifiedBy = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_finding", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_finding_audit_AuditId",
                        column: x => x.AuditId,
                        principalTable: "audit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_request",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    AuditId = table.Column<long>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    What = table.Column<string>(type: "TEXT", nullable: false),
                    RequirementId = table.Column<long>(type: "INTEGER", nullable: true),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    Due = table.Column<int>(type: "INTEGER", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_request", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_request_audit_AuditId",
                        column: x => x.AuditId,
                        principalTable: "audit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_sample",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    AuditId = table.Column<long>(type: "INTEGER", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Population = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Seed = table.Column<int>(type: "INTEGER", nullable: false),
                    Method = table.Column<string>(type: "TEXT", nullable: false),
                    Confidence = table.Column<double>(type: "REAL", nullable: false),
                    Tolerable = table.Column<double>(type: "REAL", nullable: false),
                    Expected = table.Column<double>(type: "REAL", nullable: false),
                    Finite = table.Column<bool>(type: "INTEGER", nullable: false),
                    Picks = table.Column<string>(type: "TEXT", nullable: false),
                    Found = table.Column<int>(type: "INTEGER", nullable: true),
                    UpperLimit = table.Column<double>(type: "REAL", nullable: true),
                    Strata = table.Column<string>(type: "TEXT", nullable: false),
                    Results = table.Column<string>(type: "TEXT", nullable: false),
                    DrawnBy = table.Column<string>(type: "TEXT", nullable: false),
                    DrawnById = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_sample", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_sample_audit_AuditId",
                        column: x => x.AuditId,
                        principalTable: "audit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "control_mapping",
                columns: table => new
                {
                    ControlId = table.Column<long>(type: "INTEGER", nullable: false),
                    RequirementId = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_control_mapping", x => new { x.ControlId, x.RequirementId });
                    table.ForeignKey(
                        name: "FK_control_mapping_control_ControlId",
                        column: x => x.ControlId,
                        principalTable: "control",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_control_mapping_requirement_RequirementId",
                        column: x => x.RequirementId,
                        principalTable: "requirement",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_remark",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RequestId = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_remark", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_remark_audit_request_RequestId",
                        column: x => x.RequestId,
                        principalTable: "audit_request",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_offer",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RequestId = table.Column<long>(type: "INTEGER", nullable: false),
                    ProofId = table.Column<long>(type: "INTEGER", nullable: false),
                    Frozen = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    OfferedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    OfferedBy = table.Column<string>(type: "TEXT", nullable: false),
                    WithdrawnAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_offer", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_offer_audit_request_RequestId",
                        column: x => x.RequestId,
                        principalTable: "audit_request",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_population",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    AuditId = table.Column<long>(type: "INTEGER", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Lines = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Size = table.Column<int>(type: "INTEGER", nullable: false),
                    OpenedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    OpenedBy = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_population", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_population_audit_AuditId",
                        column: x => x.AuditId,
                        principalTable: "audit",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "audit_finding_change",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    FindingId = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Field = table.Column<string>(type: "TEXT", nullable: false),
                    Before = table.Column<string>(type: "TEXT", nullable: false),
                    After = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_audit_finding_change", x => x.Id);
                    table.ForeignKey(
                        name: "FK_audit_finding_change_audit_finding_FindingId",
                        column: x => x.FindingId,
                        principalTable: "audit_finding",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_audit_offer_RequestId",
                table: "audit_offer",
                column: "RequestId");

            migrationBuilder.CreateIndex(
                name: "IX_audit_population_AuditId",
                table: "audit_population",
                column: "AuditId");

            migrationBuilder.CreateIndex(
                name: "IX_audit_finding_change_FindingId",
                table: "audit_finding_change",
                column: "FindingId");

            // What was offered to an audit stays as it was; only that it was withdrawn is added.
            migrationBuilder.Sql("CREATE TRIGGER audit_offer_frozen BEFORE UPDATE OF RequestId, ProofId, Frozen, Hash, OfferedAt, OfferedBy ON audit_offer BEGIN SELECT RAISE(ABORT, 'what was offered to an audit stays as it was'); END;");
            migrationBuilder.Sql("CREATE TRIGGER audit_offer_stays BEFORE DELETE ON audit_offer BEGIN SELECT RAISE(ABORT, 'what was offered to an audit stays as it was'); END;");

            migrationBuilder.CreateIndex(
                name: "IX_audit_FrameworkId",
                table: "audit",
                column: "FrameworkId");

            migrationBuilder.CreateIndex(
                name: "IX_audit_finding_AuditId",
                table: "audit_finding",
                column: "AuditId");

            migrationBuilder.CreateIndex(
                name: "IX_audit_remark_RequestId",
                table: "audit_remark",
                column: "RequestId");

            migrationBuilder.CreateIndex(
                name: "IX_audit_request_AuditId_Number",
                table: "audit_request",
                columns: new[] { "AuditId", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_audit_sample_AuditId",
                table: "audit_sample",
                column: "AuditId");

            migrationBuilder.CreateIndex(
                name: "IX_control_Code",
                table: "control",
                column: "Code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_control_mapping_RequirementId",
                table: "control_mapping",
                column: "RequirementId");

            migrationBuilder.CreateIndex(
                name: "IX_control_part_ControlId",
                table: "control_part",
                column: "ControlId");

            migrationBuilder.CreateIndex(
                name: "IX_framework_Code",
                table: "framework",
                column: "Code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_gauge_Name",
                table: "gauge",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_gauge_day_GaugeId_Day",
                table: "gauge_day",
                columns: new[] { "GaugeId", "Day" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_gauge_exclusion_GaugeId",
                table: "gauge_exclusion",
                column: "GaugeId");

            migrationBuilder.CreateIndex(
                name: "IX_part_proof_Hash",
                table: "part_proof",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_part_proof_PartId_Day",
                table: "part_proof",
                columns: new[] { "PartId", "Day" });

            migrationBuilder.CreateIndex(
                name: "IX_readiness_day_FrameworkId_Day",
                table: "readiness_day",
                columns: new[] { "FrameworkId", "Day" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_register_entry_Kind",
                table: "register_entry",
                column: "Kind");

            migrationBuilder.CreateIndex(
                name: "IX_requirement_FrameworkId_Code",
                table: "requirement",
                columns: new[] { "FrameworkId", "Code" },
                unique: true);


            migrationBuilder.CreateTable(
                name: "assurance_client",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Mail = table.Column<string>(type: "TEXT", nullable: false),
                    EndsOn = table.Column<int>(type: "INTEGER", nullable: false),
                    Opened = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_assurance_client", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "assurance_document",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Says = table.Column<string>(type: "TEXT", nullable: false),
                    FileName = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    BrokenSince = table.Column<long>(type: "INTEGER", nullable: true),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    GivenAt = table.Column<long>(type: "INTEGER", nullable: false),
                    WithdrawnAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_assurance_document", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "connection",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Address = table.Column<string>(type: "TEXT", nullable: false),
                    Secret = table.Column<string>(type: "TEXT", nullable: false),
                    LastAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Failure = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_connection", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "crosswalk",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    From = table.Column<string>(type: "TEXT", nullable: false),
                    FromCode = table.Column<string>(type: "TEXT", nullable: false),
                    To = table.Column<string>(type: "TEXT", nullable: false),
                    ToCode = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_crosswalk", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "policy",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Says = table.Column<string>(type: "TEXT", nullable: false),
                    Owner = table.Column<string>(type: "TEXT", nullable: false),
                    Units = table.Column<string>(type: "TEXT", nullable: false),
                    Groups = table.Column<string>(type: "TEXT", nullable: false),
                    Days = table.Column<int>(type: "INTEGER", nullable: false),
                    AsksItself = table.Column<bool>(type: "INTEGER", nullable: false),
                    ReviewOn = table.Column<int>(type: "INTEGER", nullable: true),
                    EndedOn = table.Column<int>(type: "INTEGER", nullable: true),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_policy", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "register_document",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    EntryId = table.Column<long>(type: "INTEGER", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    FileName = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    BrokenSince = table.Column<long>(type: "INTEGER", nullable: true),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    ValidThrough = table.Column<int>(type: "INTEGER", nullable: true),
                    GivenAt = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_register_document", x => x.Id);
                    table.ForeignKey(
                        name: "FK_register_document_register_entry_EntryId",
                        column: x => x.EntryId,
                        principalTable: "register_entry",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "document_ask",
                columns: table => new
                {
                    Given = table.Column<bool>(type: "INTEGER", nullable: false),
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    DocumentId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Organisation = table.Column<string>(type: "TEXT", nullable: false),
                    Mail = table.Column<string>(type: "TEXT", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    AskedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    DecidedBy = table.Column<string>(type: "TEXT", nullable: false),
                    DecidedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    EndsOn = table.Column<int>(type: "INTEGER", nullable: true),
                    Opened = table.Column<int>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_document_ask", x => x.Id);
                    table.ForeignKey(
                        name: "FK_document_ask_assurance_document_DocumentId",
                        column: x => x.DocumentId,
                        principalTable: "assurance_document",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "connection_record",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ConnectionId = table.Column<long>(type: "INTEGER", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Person = table.Column<string>(type: "TEXT", nullable: false),
                    Sort = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    Opened = table.Column<int>(type: "INTEGER", nullable: true),
                    Due = table.Column<int>(type: "INTEGER", nullable: true),
                    Done = table.Column<int>(type: "INTEGER", nullable: true),
                    Facts = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_connection_record", x => x.Id);
                    table.ForeignKey(
                        name: "FK_connection_record_connection_ConnectionId",
                        column: x => x.ConnectionId,
                        principalTable: "connection",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "policy_copy",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PolicyId = table.Column<long>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Mail = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    AskedOn = table.Column<int>(type: "INTEGER", nullable: false),
                    RemindedOn = table.Column<int>(type: "INTEGER", nullable: true),
                    Reminders = table.Column<int>(type: "INTEGER", nullable: false),
                    OpenedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    AcknowledgedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_policy_copy", x => x.Id);
                    table.ForeignKey(
                        name: "FK_policy_copy_policy_PolicyId",
                        column: x => x.PolicyId,
                        principalTable: "policy",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "policy_version",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PolicyId = table.Column<long>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Change = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false),
                    FileName = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    FileHash = table.Column<string>(type: "TEXT", nullable: false),
                    BrokenSince = table.Column<long>(type: "INTEGER", nullable: true),
                    MadeAt = table.Column<long>(type: "INTEGER", nullable: false),
                    MadeById = table.Column<long>(type: "INTEGER", nullable: false),
                    MadeBy = table.Column<string>(type: "TEXT", nullable: false),
                    ApprovedBy = table.Column<string>(type: "TEXT", nullable: false),
                    ApprovedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    InForceFrom = table.Column<int>(type: "INTEGER", nullable: false),
                    AsksAnew = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_policy_version", x => x.Id);
                    table.ForeignKey(
                        name: "FK_policy_version_policy_PolicyId",
                        column: x => x.PolicyId,
                        principalTable: "policy",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_connection_Name",
                table: "connection",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_connection_record_ConnectionId_Key",
                table: "connection_record",
                columns: new[] { "ConnectionId", "Key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_crosswalk_From_FromCode_To_ToCode",
                table: "crosswalk",
                columns: new[] { "From", "FromCode", "To", "ToCode" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_document_ask_DocumentId",
                table: "document_ask",
                column: "DocumentId");

            migrationBuilder.CreateIndex(
                name: "IX_policy_Code",
                table: "policy",
                column: "Code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_policy_copy_PolicyId_Mail_Number",
                table: "policy_copy",
                columns: new[] { "PolicyId", "Mail", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_policy_version_PolicyId_Number",
                table: "policy_version",
                columns: new[] { "PolicyId", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_register_document_EntryId",
                table: "register_document",
                column: "EntryId");


            migrationBuilder.CreateTable(
                name: "proof_facts",
                columns: table => new
                {
                    ProofId = table.Column<long>(type: "INTEGER", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_proof_facts", x => x.ProofId);
                    table.ForeignKey(
                        name: "FK_proof_facts_part_proof_ProofId",
                        column: x => x.ProofId,
                        principalTable: "part_proof",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "copy_text",
                columns: table => new
                {
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Type = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_copy_text", x => new { x.Hash, x.Type });
                });

            migrationBuilder.CreateTable(
                name: "sweep_version_hit",
                columns: table => new
                {
                    RunId = table.Column<long>(type: "INTEGER", nullable: false),
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Term = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sweep_version_hit", x => new { x.RunId, x.ItemId, x.Hash, x.Term });
                });


            migrationBuilder.CreateTable(
                name: "activity_original",
                columns: table => new
                {
                    EventId = table.Column<long>(type: "INTEGER", nullable: false),
                    Line = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_activity_original", x => x.EventId);
                    table.ForeignKey(
                        name: "FK_activity_original_activity_event_EventId",
                        column: x => x.EventId,
                        principalTable: "activity_event",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });


            migrationBuilder.CreateTable(
                name: "sign_in_code",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Words = table.Column<string>(type: "TEXT", nullable: false),
                    Next = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sign_in_code", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_sign_in_code_Code",
                table: "sign_in_code",
                column: "Code",
                unique: true);

            migrationBuilder.CreateTable(
                name: "directory_touch",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false),
                    Thing = table.Column<string>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_touch", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_directory_touch_Revision",
                table: "directory_touch",
                column: "Revision");

            migrationBuilder.CreateTable(
                name: "investigation_link",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    InvestigationId = table.Column<long>(type: "INTEGER", nullable: false),
                    AlertId = table.Column<long>(type: "INTEGER", nullable: true),
                    FindingId = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_investigation_link", x => x.Id);
                    table.ForeignKey(
                        name: "FK_investigation_link_investigation_InvestigationId",
                        column: x => x.InvestigationId,
                        principalTable: "investigation",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_investigation_link_AlertId",
                table: "investigation_link",
                column: "AlertId");

            migrationBuilder.CreateIndex(
                name: "IX_investigation_link_FindingId",
                table: "investigation_link",
                column: "FindingId");

            migrationBuilder.CreateIndex(
                name: "IX_investigation_link_InvestigationId_AlertId_FindingId",
                table: "investigation_link",
                columns: new[] { "InvestigationId", "AlertId", "FindingId" },
                unique: true);


            migrationBuilder.CreateTable(
                name: "custodian_found_place",
                columns: table => new
                {
                    CustodianId = table.Column<long>(type: "INTEGER", nullable: false),
                    ContainerId = table.Column<long>(type: "INTEGER", nullable: false),
                    FoundOn = table.Column<int>(type: "INTEGER", nullable: false),
                    IsTheirs = table.Column<bool>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_custodian_found_place", x => new { x.CustodianId, x.ContainerId });
                    table.ForeignKey(
                        name: "FK_custodian_found_place_container_ContainerId",
                        column: x => x.ContainerId,
                        principalTable: "container",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_custodian_found_place_custodian_CustodianId",
                        column: x => x.CustodianId,
                        principalTable: "custodian",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "matter_tag",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    MatterId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    Withholds = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_matter_tag", x => x.Id);
                    table.ForeignKey(
                        name: "FK_matter_tag_matter_MatterId",
                        column: x => x.MatterId,
                        principalTable: "matter",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "matter_item_tag",
                columns: table => new
                {
                    TagId = table.Column<long>(type: "INTEGER", nullable: false),
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Document = table.Column<int>(type: "INTEGER", nullable: false),
                    Note = table.Column<string>(type: "TEXT", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_matter_item_tag", x => new { x.TagId, x.ItemId, x.Document });
                    table.ForeignKey(
                        name: "FK_matter_item_tag_matter_tag_TagId",
                        column: x => x.TagId,
                        principalTable: "matter_tag",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_custodian_found_place_ContainerId",
                table: "custodian_found_place",
                column: "ContainerId");

            migrationBuilder.CreateIndex(
                name: "IX_matter_item_tag_ItemId",
                table: "matter_item_tag",
                column: "ItemId");

            migrationBuilder.CreateIndex(
                name: "IX_matter_tag_MatterId_Name",
                table: "matter_tag",
                columns: new[] { "MatterId", "Name" },
                unique: true);


            migrationBuilder.CreateIndex(
                name: "IX_item_AlteredOn",
                table: "item",
                column: "AlteredOn",
                filter: "AlteredOn IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_item_FlooredOn",
                table: "item",
                column: "FlooredOn",
                filter: "FlooredOn IS NOT NULL AND FloorSettledOn IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_item_MissingSince",
                table: "item",
                column: "MissingSince",
                filter: "MissingSince IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_item_standing",
                table: "item",
                columns: new[] { "ContainerId", "DestroyedAt", "KeepUntil", "DisposableFrom", "AtEnd", "HandedOver", "BatchId", "MissingSince", "SeriesId", "Created", "Bytes", "Type", "Owner" });

            migrationBuilder.CreateIndex(
                name: "IX_item_text_unsearched",
                table: "item_text",
                column: "ItemId",
                filter: "\"Limit\" IS NOT NULL OR Text = ''");

            migrationBuilder.CreateIndex(
                name: "IX_item_Author",
                table: "item",
                column: "Author",
                filter: "Author IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_item_Owner",
                table: "item",
                column: "Owner",
                filter: "Owner IS NOT NULL");


            migrationBuilder.CreateIndex(
                name: "IX_item_FilingRuleId",
                table: "item",
                column: "FilingRuleId",
                filter: "FilingRuleId IS NOT NULL");

        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {

            migrationBuilder.DropTable(
                name: "custodian_found_place");

            migrationBuilder.DropTable(
                name: "matter_item_tag");

            migrationBuilder.DropTable(
                name: "matter_tag");

            migrationBuilder.DropTable(
                name: "investigation_link");

            migrationBuilder.DropTable(
                name: "directory_touch");

            migrationBuilder.DropTable(
                name: "sign_in_code");

            migrationBuilder.DropTable(
                name: "activity_original");

            migrationBuilder.DropTable(
                name: "copy_text");

            migrationBuilder.DropTable(
                name: "sweep_version_hit");
            migrationBuilder.DropTable(
                name: "activity_day_count");

            migrationBuilder.DropTable(
                name: "activity_hour_count");


            migrationBuilder.DropTable(
                name: "proof_facts");

            migrationBuilder.DropTable(
                name: "assurance_client");

            migrationBuilder.DropTable(
                name: "connection_record");

            migrationBuilder.DropTable(
                name: "crosswalk");

            migrationBuilder.DropTable(
                name: "document_ask");

            migrationBuilder.DropTable(
                name: "policy_copy");

            migrationBuilder.DropTable(
                name: "policy_version");

            migrationBuilder.DropTable(
                name: "register_document");

            migrationBuilder.DropTable(
                name: "connection");

            migrationBuilder.DropTable(
                name: "assurance_document");

            migrationBuilder.DropTable(
                name: "policy");
            migrationBuilder.DropTable(
                name: "mending_news");

            migrationBuilder.DropTable(
                name: "mending_seen");

            migrationBuilder.DropTable(
                name: "owner_question");

            migrationBuilder.DropTable(
                name: "owner_settings");

            migrationBuilder.DropTable(
                name: "assurance");

            migrationBuilder.DropTable(
                name: "audit_finding");

            migrationBuilder.DropTable(
                name: "audit_remark");

            migrationBuilder.DropTable(
                name: "audit_offer");


            migrationBuilder.DropTable(
                name: "audit_population");


            migrationBuilder.DropTable(
                name: "audit_finding_change");

            migrationBuilder.DropTable(
                name: "audit_sample");

            migrationBuilder.DropTable(
                name: "control_mapping");

            migrationBuilder.DropTable(
                name: "gauge_day");

            migrationBuilder.DropTable(
                name: "gauge_exclusion");

            migrationBuilder.DropTable(
                name: "part_proof");

            migrationBuilder.DropTable(
                name: "readiness_ground");

            migrationBuilder.DropTable(
                name: "readiness_day");

            migrationBuilder.DropTable(
                name: "register_entry");

            migrationBuilder.DropTable(
                name: "audit_request");

            migrationBuilder.DropTable(
                name: "requirement");

            migrationBuilder.DropTable(
                name: "gauge");

            migrationBuilder.DropTable(
                name: "control_part");

            migrationBuilder.DropTable(
                name: "audit");

            migrationBuilder.DropTable(
                name: "control");

            migrationBuilder.DropTable(
                name: "framework");

            migrationBuilder.DropTable(
                name: "review_line");

            migrationBuilder.DropTable(
                name: "reviewer_link");

            migrationBuilder.DropTable(
                name: "toxic_pair");

            migrationBuilder.DropTable(
                name: "review_round");

            migrationBuilder.DropTable(
                name: "review");

            migrationBuilder.DropTable(
                name: "action_severity");

            migrationBuilder.DropTable(
                name: "alert_act");

            migrationBuilder.DropTable(
                name: "risk_weight");

            migrationBuilder.DropTable(
                name: "alert");

            migrationBuilder.DropTable(
                name: "watch");

            migrationBuilder.DropTable(
                name: "activity_event");

            migrationBuilder.DropTable(
                name: "activity_file");

            migrationBuilder.DropTable(
                name: "activity_rejected");

            migrationBuilder.DropTable(
                name: "activity_value");

            migrationBuilder.DropTable(
                name: "channel_reader");

            migrationBuilder.DropTable(
                name: "investigation_event");

            migrationBuilder.DropTable(
                name: "network");

            migrationBuilder.DropTable(
                name: "place");

            migrationBuilder.DropTable(
                name: "segment");

            migrationBuilder.DropTable(
                name: "statement");

            migrationBuilder.DropTable(
                name: "investigation");

            migrationBuilder.DropTable(
                name: "channel");

            migrationBuilder.DropTable(
                name: "AspNetUserClaims");

            migrationBuilder.DropTable(
                name: "AspNetUserLogins");

            migrationBuilder.DropTable(
                name: "AspNetUserTokens");

            migrationBuilder.DropTable(
                name: "authenticator");

            migrationBuilder.DropTable(
                name: "recovery_code");

            migrationBuilder.DropTable(
                name: "api_key");

            migrationBuilder.DropTable(
                name: "sign_in_session");

            migrationBuilder.DropTable(
                name: "authority");

            migrationBuilder.DropTable(
                name: "batch_line");

            migrationBuilder.DropTable(
                name: "broken_copy");

            migrationBuilder.DropTable(
                name: "bundle");

            migrationBuilder.DropTable(
                name: "bundle_item");

            migrationBuilder.DropTable(
                name: "certificate");

            migrationBuilder.DropTable(
                name: "delivery");

            migrationBuilder.DropTable(
                name: "directory_membership");

            migrationBuilder.DropTable(
                name: "filing_default");

            migrationBuilder.DropTable(
                name: "filing_lesson");

            migrationBuilder.DropTable(
                name: "filing_mark");

            migrationBuilder.DropTable(
                name: "filing_suggestion");

            migrationBuilder.DropTable(
                name: "hold_item");

            migrationBuilder.DropTable(
                name: "hold_release");

            migrationBuilder.DropTable(
                name: "item_copy");

            migrationBuilder.DropTable(
                name: "item_date");

            migrationBuilder.DropTable(
                name: "item_field");

            migrationBuilder.DropTable(
                name: "item_sensitive");

            migrationBuilder.DropTable(
                name: "item_text");

            migrationBuilder.DropTable(
                name: "job");

            migrationBuilder.DropTable(
                name: "ledger");

            migrationBuilder.DropTable(
                name: "matter_bundle");

            migrationBuilder.DropTable(
                name: "matter_member");

            migrationBuilder.DropTable(
                name: "message");

            migrationBuilder.DropTable(
                name: "notice_copy");

            migrationBuilder.DropTable(
                name: "organisation");

            migrationBuilder.DropTable(
                name: "own_kind");

            migrationBuilder.DropTable(
                name: "proposal");

            migrationBuilder.DropTable(
                name: "question");

            migrationBuilder.DropTable(
                name: "remit");

            migrationBuilder.DropTable(
                name: "saved_view");

            migrationBuilder.DropTable(
                name: "series_version");

            migrationBuilder.DropTable(
                name: "sign_off");

            migrationBuilder.DropTable(
                name: "sweep_hit");

            migrationBuilder.DropTable(
                name: "sweep_run");

            migrationBuilder.DropTable(
                name: "trigger_event");

            migrationBuilder.DropTable(
                name: "unreadable");

            migrationBuilder.DropTable(
                name: "workspace_file");

            migrationBuilder.DropTable(
                name: "workspace_version");

            migrationBuilder.DropTable(
                name: "webhook");

            migrationBuilder.DropTable(
                name: "filing_rule");

            migrationBuilder.DropTable(
                name: "hold_order");

            migrationBuilder.DropTable(
                name: "directory_group");

            migrationBuilder.DropTable(
                name: "custodian");

            migrationBuilder.DropTable(
                name: "notice");

            migrationBuilder.DropTable(
                name: "person");

            migrationBuilder.DropTable(
                name: "batch");

            migrationBuilder.DropTable(
                name: "sweep");

            migrationBuilder.DropTable(
                name: "trigger_event_type");

            migrationBuilder.DropTable(
                name: "item");

            migrationBuilder.DropTable(
                name: "directory_consent");

            migrationBuilder.DropTable(
                name: "directory_grant");

            migrationBuilder.DropTable(
                name: "directory_link");

            migrationBuilder.DropTable(
                name: "directory_application");

            migrationBuilder.DropTable(
                name: "directory_place");

            migrationBuilder.DropTable(
                name: "directory_person");

            migrationBuilder.DropTable(
                name: "directory_source");

            migrationBuilder.DropTable(
                name: "blanket");

            migrationBuilder.DropTable(
                name: "matter");

            migrationBuilder.DropTable(
                name: "container");

            migrationBuilder.DropTable(
                name: "series");

            migrationBuilder.DropTable(
                name: "source");

            migrationBuilder.DropTable(
                name: "unit");
        }
    }
}

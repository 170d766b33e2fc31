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
                name: "certificate",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Number = table.Column<string>(type: "TEXT", nullable: false),
                    BatchId = table.Column<long>(type: "INTEGER", nullable: false),
                    SeriesId = table.Column<long>(type: "INTEGER", nullable: false),
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
                name: "item_copy",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
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
                    Id = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Zone = table.Column<string>(type: "TEXT", nullable: false),
                    FiscalYearEnd = table.Column<string>(type: "TEXT", nullable: false),
                    Demo = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_organisation", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "person",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    DisplayName = table.Column<string>(type: "TEXT", nullable: false),
                    Active = table.Column<bool>(type: "INTEGER", nullable: false),
                    Version = table.Column<long>(type: "INTEGER", nullable: false),
                    UserName = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    NormalizedUserName = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    Email = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    NormalizedEmail = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    EmailConfirmed = table.Column<bool>(type: "INTEGER", nullable: false),
                    PasswordHash = table.Column<string>(type: "TEXT", nullable: true),
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
                name: "source",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
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
                name: "batch",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SeriesId = table.Column<long>(type: "INTEGER", nullable: false),
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
                        name: "FK_batch_series_SeriesId",
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
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Created = table.Column<int>(type: "INTEGER", nullable: false),
                    Modified = table.Column<int>(type: "INTEGER", nullable: false),
                    ModifiedTicks = table.Column<long>(type: "INTEGER", nullable: false),
                    SeriesId = table.Column<long>(type: "INTEGER", nullable: true),
                    FiledOn = table.Column<int>(type: "INTEGER", nullable: true),
                    FiledBy = table.Column<string>(type: "TEXT", nullable: true),
                    ExtendedUntil = table.Column<int>(type: "INTEGER", nullable: true),
                    ExtendedBy = table.Column<string>(type: "TEXT", nullable: true),
                    ExtendedWhy = table.Column<string>(type: "TEXT", nullable: true),
                    KeepUntil = table.Column<int>(type: "INTEGER", nullable: true),
                    DisposableFrom = table.Column<int>(type: "INTEGER", nullable: true),
                    BatchId = table.Column<long>(type: "INTEGER", nullable: true),
                    MissingSince = table.Column<long>(type: "INTEGER", nullable: true),
                    DestroyedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    CertificateId = table.Column<long>(type: "INTEGER", nullable: true)
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

            migrationBuilder.CreateIndex(
                name: "IX_AspNetUserClaims_UserId",
                table: "AspNetUserClaims",
                column: "UserId");

            migrationBuilder.CreateIndex(
                name: "IX_AspNetUserLogins_UserId",
                table: "AspNetUserLogins",
                column: "UserId");

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
                name: "IX_certificate_BatchId",
                table: "certificate",
                column: "BatchId",
                unique: true);

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
                name: "IX_item_BatchId",
                table: "item",
                column: "BatchId");

            migrationBuilder.CreateIndex(
                name: "IX_item_ContainerId_Path",
                table: "item",
                columns: new[] { "ContainerId", "Path" },
                unique: true,
                filter: "DestroyedAt IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_item_DisposableFrom",
                table: "item",
                column: "DisposableFrom");

            migrationBuilder.CreateIndex(
                name: "IX_item_Hash",
                table: "item",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_item_SeriesId_DisposableFrom",
                table: "item",
                columns: new[] { "SeriesId", "DisposableFrom" });

            migrationBuilder.CreateIndex(
                name: "IX_item_copy_Hash",
                table: "item_copy",
                column: "Hash");

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
                name: "EmailIndex",
                table: "person",
                column: "NormalizedEmail");

            migrationBuilder.CreateIndex(
                name: "UserNameIndex",
                table: "person",
                column: "NormalizedUserName",
                unique: true);

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
        
            // Append-only in the database itself: no connection, ours included, can change or remove an entry.
            migrationBuilder.Sql("CREATE TRIGGER ledger_no_update BEFORE UPDATE ON ledger BEGIN SELECT RAISE(ABORT, 'the ledger is append-only'); END;");
            migrationBuilder.Sql("CREATE TRIGGER ledger_no_delete BEFORE DELETE ON ledger BEGIN SELECT RAISE(ABORT, 'the ledger is append-only'); END;");
            // INSERT OR REPLACE would remove a row without the delete trigger; entries come in order or not at all.
            migrationBuilder.Sql("CREATE TRIGGER ledger_in_order BEFORE INSERT ON ledger WHEN NEW.Sequence <> (SELECT COALESCE(MAX(Sequence), 0) + 1 FROM ledger) BEGIN SELECT RAISE(ABORT, 'the ledger is append-only'); END;");
            migrationBuilder.Sql(WideKeel.Store.Content.FullText.Create);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "AspNetUserClaims");

            migrationBuilder.DropTable(
                name: "AspNetUserLogins");

            migrationBuilder.DropTable(
                name: "AspNetUserTokens");

            migrationBuilder.DropTable(
                name: "api_key");

            migrationBuilder.DropTable(
                name: "batch_line");

            migrationBuilder.DropTable(
                name: "certificate");

            migrationBuilder.DropTable(
                name: "item_copy");

            migrationBuilder.DropTable(
                name: "item_date");

            migrationBuilder.DropTable(
                name: "item_text");

            migrationBuilder.DropTable(
                name: "job");

            migrationBuilder.DropTable(
                name: "ledger");

            migrationBuilder.DropTable(
                name: "organisation");

            migrationBuilder.DropTable(
                name: "remit");

            migrationBuilder.DropTable(
                name: "series_version");

            migrationBuilder.DropTable(
                name: "sign_off");

            migrationBuilder.DropTable(
                name: "unreadable");

            migrationBuilder.DropTable(
                name: "item");

            migrationBuilder.DropTable(
                name: "person");

            migrationBuilder.DropTable(
                name: "batch");

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

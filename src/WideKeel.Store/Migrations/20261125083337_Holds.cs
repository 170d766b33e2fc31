using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Holds : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_message_person_PersonId",
                table: "message");

            migrationBuilder.AlterColumn<long>(
                name: "PersonId",
                table: "message",
                type: "INTEGER",
                nullable: true,
                oldClrType: typeof(long),
                oldType: "INTEGER");

            migrationBuilder.AddColumn<long>(
                name: "MatterId",
                table: "message",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "ToMail",
                table: "message",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "ToName",
                table: "message",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "MatterId",
                table: "job",
                type: "INTEGER",
                nullable: true);

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
                name: "directory_group",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_group", x => x.Id);
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
                    LeavesOn = table.Column<int>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_directory_person", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "hold_item",
                columns: table => new
                {
                    ItemId = table.Column<long>(type: "INTEGER", nullable: false),
                    OrderId = table.Column<long>(type: "INTEGER", nullable: false),
                    Pinned = table.Column<bool>(type: "INTEGER", nullable: false),
                    Until = table.Column<int>(type: "INTEGER", nullable: true),
                    ReleaseId = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_hold_item", x => new { x.ItemId, x.OrderId });
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
                    Failure = table.Column<string>(type: "TEXT", nullable: true)
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
                    Token = table.Column<string>(type: "TEXT", nullable: false),
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
                name: "IX_hold_item_OrderId_ItemId",
                table: "hold_item",
                columns: new[] { "OrderId", "ItemId" });

            migrationBuilder.CreateIndex(
                name: "IX_hold_item_ReleaseId",
                table: "hold_item",
                column: "ReleaseId");

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
                name: "IX_item_field_Name",
                table: "item_field",
                column: "Name");

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
                name: "IX_notice_copy_Token",
                table: "notice_copy",
                column: "Token",
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
                name: "IX_workspace_file_FollowsId",
                table: "workspace_file",
                column: "FollowsId");

            migrationBuilder.AddForeignKey(
                name: "FK_message_person_PersonId",
                table: "message",
                column: "PersonId",
                principalTable: "person",
                principalColumn: "Id");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_message_person_PersonId",
                table: "message");

            migrationBuilder.DropTable(
                name: "bundle_item");

            migrationBuilder.DropTable(
                name: "directory_membership");

            migrationBuilder.DropTable(
                name: "hold_item");

            migrationBuilder.DropTable(
                name: "hold_release");

            migrationBuilder.DropTable(
                name: "item_field");

            migrationBuilder.DropTable(
                name: "matter_bundle");

            migrationBuilder.DropTable(
                name: "matter_member");

            migrationBuilder.DropTable(
                name: "notice_copy");

            migrationBuilder.DropTable(
                name: "sweep_hit");

            migrationBuilder.DropTable(
                name: "sweep_run");

            migrationBuilder.DropTable(
                name: "workspace_file");

            migrationBuilder.DropTable(
                name: "workspace_version");

            migrationBuilder.DropTable(
                name: "hold_order");

            migrationBuilder.DropTable(
                name: "directory_group");

            migrationBuilder.DropTable(
                name: "custodian");

            migrationBuilder.DropTable(
                name: "notice");

            migrationBuilder.DropTable(
                name: "sweep");

            migrationBuilder.DropTable(
                name: "directory_person");

            migrationBuilder.DropTable(
                name: "matter");

            migrationBuilder.DropColumn(
                name: "MatterId",
                table: "message");

            migrationBuilder.DropColumn(
                name: "ToMail",
                table: "message");

            migrationBuilder.DropColumn(
                name: "ToName",
                table: "message");

            migrationBuilder.DropColumn(
                name: "MatterId",
                table: "job");

            migrationBuilder.AlterColumn<long>(
                name: "PersonId",
                table: "message",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L,
                oldClrType: typeof(long),
                oldType: "INTEGER",
                oldNullable: true);

            migrationBuilder.AddForeignKey(
                name: "FK_message_person_PersonId",
                table: "message",
                column: "PersonId",
                principalTable: "person",
                principalColumn: "Id",
                onDelete: ReferentialAction.Cascade);
        }
    }
}

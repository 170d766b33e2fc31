using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Disposition : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "CalendarKey",
                table: "person",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Address",
                table: "organisation",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<int>(
                name: "CertificateYears",
                table: "organisation",
                type: "INTEGER",
                nullable: false,
                defaultValue: 7);

            migrationBuilder.AddColumn<string>(
                name: "MailFrom",
                table: "organisation",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<int>(
                name: "RoutineOn",
                table: "organisation",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "SmtpHost",
                table: "organisation",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "SmtpPassword",
                table: "organisation",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<int>(
                name: "SmtpPort",
                table: "organisation",
                type: "INTEGER",
                nullable: false,
                defaultValue: 587);

            migrationBuilder.AddColumn<bool>(
                name: "SmtpTls",
                table: "organisation",
                type: "INTEGER",
                nullable: false,
                defaultValue: true);

            migrationBuilder.AddColumn<string>(
                name: "SmtpUser",
                table: "organisation",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<bool>(
                name: "HandedOver",
                table: "item",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "RefileTo",
                table: "batch_line",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Month",
                table: "batch",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "StageSince",
                table: "batch",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.Sql("UPDATE batch SET StageSince = COALESCE((SELECT MAX(s.At) FROM sign_off s WHERE s.BatchId = batch.Id), OpenedAt)");

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
                name: "message",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    PersonId = table.Column<long>(type: "INTEGER", nullable: false),
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

            migrationBuilder.CreateIndex(
                name: "IX_bundle_BatchId",
                table: "bundle",
                column: "BatchId",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_delivery_SentAt_NextTryAt",
                table: "delivery",
                columns: new[] { "SentAt", "NextTryAt" });

            migrationBuilder.CreateIndex(
                name: "IX_delivery_WebhookId",
                table: "delivery",
                column: "WebhookId");

            migrationBuilder.CreateIndex(
                name: "IX_message_PersonId",
                table: "message",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_message_SentAt_NextTryAt",
                table: "message",
                columns: new[] { "SentAt", "NextTryAt" });

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
                name: "IX_webhook_Name",
                table: "webhook",
                column: "Name",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "broken_copy");

            migrationBuilder.DropTable(
                name: "bundle");

            migrationBuilder.DropTable(
                name: "delivery");

            migrationBuilder.DropTable(
                name: "message");

            migrationBuilder.DropTable(
                name: "question");

            migrationBuilder.DropTable(
                name: "webhook");

            migrationBuilder.DropColumn(
                name: "CalendarKey",
                table: "person");

            migrationBuilder.DropColumn(
                name: "Address",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "CertificateYears",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "MailFrom",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "RoutineOn",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "SmtpHost",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "SmtpPassword",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "SmtpPort",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "SmtpTls",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "SmtpUser",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "HandedOver",
                table: "item");

            migrationBuilder.DropColumn(
                name: "RefileTo",
                table: "batch_line");

            migrationBuilder.DropColumn(
                name: "Month",
                table: "batch");

            migrationBuilder.DropColumn(
                name: "StageSince",
                table: "batch");
        }
    }
}

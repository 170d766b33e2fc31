using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Watches : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
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
                    EventRow = table.Column<long>(type: "INTEGER", nullable: true),
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
                    UndoneAt = table.Column<long>(type: "INTEGER", nullable: true)
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
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
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
        }
    }
}

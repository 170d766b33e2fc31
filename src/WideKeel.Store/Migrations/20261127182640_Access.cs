using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Access : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
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
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
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
                    Fix = table.Column<string>(type: "TEXT", nullable: true),
                    Decision = table.Column<string>(type: "TEXT", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    DecidedBy = table.Column<string>(type: "TEXT", nullable: false),
                    DecidedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Opened = table.Column<bool>(type: "INTEGER", nullable: false),
                    BySilence = table.Column<bool>(type: "INTEGER", nullable: false),
                    Applied = table.Column<bool>(type: "INTEGER", nullable: false),
                    Attempts = table.Column<int>(type: "INTEGER", nullable: false),
                    Failure = table.Column<string>(type: "TEXT", nullable: true),
                    Version = table.Column<long>(type: "INTEGER", nullable: false)
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
                    Token = table.Column<string>(type: "TEXT", nullable: false),
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

            migrationBuilder.CreateIndex(
                name: "IX_reviewer_link_Token",
                table: "reviewer_link",
                column: "Token",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
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
        }
    }
}

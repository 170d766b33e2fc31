using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Schedule : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_batch_series_SeriesId",
                table: "batch");

            migrationBuilder.RenameColumn(
                name: "SeriesId",
                table: "certificate",
                newName: "UnitId");

            migrationBuilder.AddColumn<long>(
                name: "WormEnabledAt",
                table: "organisation",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "AtEnd",
                table: "item",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "FiledHow",
                table: "item",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "FilingRuleId",
                table: "item",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "OwnGrade",
                table: "item",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "OwnGradeUntil",
                table: "item",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Subject",
                table: "item",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Code",
                table: "certificate",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "Title",
                table: "certificate",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AlterColumn<long>(
                name: "SeriesId",
                table: "batch",
                type: "INTEGER",
                nullable: true,
                oldClrType: typeof(long),
                oldType: "INTEGER");

            migrationBuilder.AddColumn<long>(
                name: "BlanketId",
                table: "batch",
                type: "INTEGER",
                nullable: true);

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
                name: "event_type",
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
                    table.PrimaryKey("PK_event_type", x => x.Id);
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
                name: "proposal",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Act = table.Column<string>(type: "TEXT", nullable: false),
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
                name: "event",
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
                    table.PrimaryKey("PK_event", x => x.Id);
                    table.ForeignKey(
                        name: "FK_event_event_type_TypeId",
                        column: x => x.TypeId,
                        principalTable: "event_type",
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

            migrationBuilder.CreateIndex(
                name: "IX_item_Subject",
                table: "item",
                column: "Subject");

            migrationBuilder.CreateIndex(
                name: "IX_batch_BlanketId",
                table: "batch",
                column: "BlanketId");

            migrationBuilder.CreateIndex(
                name: "IX_authority_Code",
                table: "authority",
                column: "Code",
                unique: true);

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
                name: "IX_event_Reference",
                table: "event",
                column: "Reference",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_event_Subject_TypeId",
                table: "event",
                columns: new[] { "Subject", "TypeId" });

            migrationBuilder.CreateIndex(
                name: "IX_event_TypeId",
                table: "event",
                column: "TypeId");

            migrationBuilder.CreateIndex(
                name: "IX_event_type_Name",
                table: "event_type",
                column: "Name",
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
                name: "IX_proposal_State",
                table: "proposal",
                column: "State");

            migrationBuilder.AddForeignKey(
                name: "FK_batch_blanket_BlanketId",
                table: "batch",
                column: "BlanketId",
                principalTable: "blanket",
                principalColumn: "Id");

            migrationBuilder.AddForeignKey(
                name: "FK_batch_series_SeriesId",
                table: "batch",
                column: "SeriesId",
                principalTable: "series",
                principalColumn: "Id");

            foreach (var (table, column) in new[] { ("series", "InForce"), ("series", "Draft"), ("series_version", "Definition") })
            {
                migrationBuilder.Sql(Rewritten(table, column));
            }

            // A certificate knew its series; now it carries what it needs itself. The column was renamed: it holds the series' id still.
            migrationBuilder.Sql("UPDATE certificate SET (Code, Title, UnitId) = (SELECT s.Code, s.Title, s.UnitId FROM series s WHERE s.Id = certificate.UnitId)");

            // SignOff is 2, Kept is 1; a series that ends in sign-off, and a permanent one, gave its grade for good.
            migrationBuilder.Sql("""
                UPDATE item SET (AtEnd, OwnGrade, OwnGradeUntil) = (
                    SELECT CASE json_extract(s.InForce, '$.atEnd') WHEN 'signOff' THEN 2 ELSE 0 END, 1,
                        CASE WHEN json_extract(s.InForce, '$.atEnd') = 'signOff' OR json_extract(s.InForce, '$.permanent') THEN 2147483647 ELSE item.KeepUntil END
                    FROM series s WHERE s.Id = item.SeriesId)
                WHERE SeriesId IN (SELECT Id FROM series WHERE InForce IS NOT NULL)
                """);
        }

        /// <summary>A definition with one clause and a line of authority, in the form with several clauses and descriptors; the line goes to the description.</summary>
        private static string Rewritten(string table, string column) => $"""
            UPDATE {table} SET {column} = json_set(json_remove({column}, '$.function', '$.authority', '$.trigger', '$.cutoff', '$.period'),
                '$.description', trim(json_extract({column}, '$.description') || CASE WHEN json_extract({column}, '$.authority') <> '' THEN char(10) || 'Authority: ' || json_extract({column}, '$.authority') ELSE '' END),
                '$.descriptors', json_object('function', json_extract({column}, '$.function'), 'activity', '', 'subActivity', '', 'department', '', 'tags', json_array()),
                '$.owner', '', '$.authorities', json_array(), '$.join', 'later', '$.grade', 'kept', '$.ratchet', json('false'),
                '$.clauses', json(CASE WHEN json_extract({column}, '$.permanent') OR json_extract({column}, '$.period') IS NULL THEN json_array()
                    ELSE json_array(json_object('trigger', json_extract({column}, '$.trigger'), 'cutoff', json_extract({column}, '$.cutoff'), 'period', json_extract({column}, '$.period'))) END))
            WHERE {column} IS NOT NULL AND json_extract({column}, '$.clauses') IS NULL
            """;

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_batch_blanket_BlanketId",
                table: "batch");

            migrationBuilder.DropForeignKey(
                name: "FK_batch_series_SeriesId",
                table: "batch");

            migrationBuilder.DropTable(
                name: "authority");

            migrationBuilder.DropTable(
                name: "blanket");

            migrationBuilder.DropTable(
                name: "event");

            migrationBuilder.DropTable(
                name: "filing_default");

            migrationBuilder.DropTable(
                name: "filing_mark");

            migrationBuilder.DropTable(
                name: "proposal");

            migrationBuilder.DropTable(
                name: "event_type");

            migrationBuilder.DropTable(
                name: "filing_rule");

            migrationBuilder.DropIndex(
                name: "IX_item_Subject",
                table: "item");

            migrationBuilder.DropIndex(
                name: "IX_batch_BlanketId",
                table: "batch");

            migrationBuilder.DropColumn(
                name: "WormEnabledAt",
                table: "organisation");

            migrationBuilder.DropColumn(
                name: "AtEnd",
                table: "item");

            migrationBuilder.DropColumn(
                name: "FiledHow",
                table: "item");

            migrationBuilder.DropColumn(
                name: "FilingRuleId",
                table: "item");

            migrationBuilder.DropColumn(
                name: "OwnGrade",
                table: "item");

            migrationBuilder.DropColumn(
                name: "OwnGradeUntil",
                table: "item");

            migrationBuilder.DropColumn(
                name: "Subject",
                table: "item");

            migrationBuilder.DropColumn(
                name: "Code",
                table: "certificate");

            migrationBuilder.DropColumn(
                name: "Title",
                table: "certificate");

            migrationBuilder.DropColumn(
                name: "BlanketId",
                table: "batch");

            migrationBuilder.RenameColumn(
                name: "UnitId",
                table: "certificate",
                newName: "SeriesId");

            migrationBuilder.AlterColumn<long>(
                name: "SeriesId",
                table: "batch",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L,
                oldClrType: typeof(long),
                oldType: "INTEGER",
                oldNullable: true);

            migrationBuilder.AddForeignKey(
                name: "FK_batch_series_SeriesId",
                table: "batch",
                column: "SeriesId",
                principalTable: "series",
                principalColumn: "Id",
                onDelete: ReferentialAction.Cascade);
        }
    }
}

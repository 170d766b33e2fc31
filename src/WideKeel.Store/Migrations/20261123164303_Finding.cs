using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Finding : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Owner",
                table: "item",
                type: "TEXT",
                nullable: true);

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
                name: "saved_view",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    OwnerId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Query = table.Column<string>(type: "TEXT", nullable: false),
                    Shared = table.Column<bool>(type: "INTEGER", nullable: false),
                    Revision = table.Column<long>(type: "INTEGER", nullable: false)
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

            migrationBuilder.CreateIndex(
                name: "IX_item_sensitive_Kind",
                table: "item_sensitive",
                column: "Kind");

            migrationBuilder.CreateIndex(
                name: "IX_own_kind_Name",
                table: "own_kind",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_saved_view_OwnerId_Name",
                table: "saved_view",
                columns: new[] { "OwnerId", "Name" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "item_sensitive");

            migrationBuilder.DropTable(
                name: "own_kind");

            migrationBuilder.DropTable(
                name: "saved_view");

            migrationBuilder.DropColumn(
                name: "Owner",
                table: "item");
        }
    }
}

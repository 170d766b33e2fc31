using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Mail : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Kind",
                table: "source",
                type: "TEXT",
                nullable: false,
                defaultValue: "Share");

            migrationBuilder.AddColumn<string>(
                name: "Attachments",
                table: "item",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Thread",
                table: "item",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "IX_item_Thread",
                table: "item",
                column: "Thread");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_item_Thread",
                table: "item");

            migrationBuilder.DropColumn(
                name: "Kind",
                table: "source");

            migrationBuilder.DropColumn(
                name: "Attachments",
                table: "item");

            migrationBuilder.DropColumn(
                name: "Thread",
                table: "item");
        }
    }
}

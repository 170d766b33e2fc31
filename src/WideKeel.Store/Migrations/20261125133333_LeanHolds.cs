using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <summary>The index of holds as two trees instead of four: the rows lie in the order of their key, and only those in a release are indexed by it.</summary>
    public partial class LeanHolds : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder) => Rebuild(migrationBuilder, "WITHOUT ROWID", "WHERE ReleaseId IS NOT NULL", "_Until", ", Until");

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) => Rebuild(migrationBuilder, "", "", "", "");

        private static void Rebuild(MigrationBuilder migrationBuilder, string layout, string released, string name, string covered) => migrationBuilder.Sql($"""
            CREATE TABLE hold_item_new (
                ItemId INTEGER NOT NULL, OrderId INTEGER NOT NULL, Pinned INTEGER NOT NULL, Until INTEGER NULL, ReleaseId INTEGER NULL,
                CONSTRAINT PK_hold_item PRIMARY KEY (ItemId, OrderId)) {layout};
            INSERT INTO hold_item_new SELECT ItemId, OrderId, Pinned, Until, ReleaseId FROM hold_item ORDER BY ItemId, OrderId;
            DROP TABLE hold_item;
            ALTER TABLE hold_item_new RENAME TO hold_item;
            CREATE INDEX IX_hold_item_OrderId_ItemId{name} ON hold_item (OrderId, ItemId{covered});
            CREATE INDEX IX_hold_item_ReleaseId ON hold_item (ReleaseId) {released};
            """);
    }
}

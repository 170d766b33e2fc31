using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WideKeel.Store.Migrations
{
    /// <inheritdoc />
    public partial class Activity : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
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
                    Sql = table.Column<string>(type: "TEXT", nullable: false)
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
                    Original = table.Column<string>(type: "TEXT", nullable: true),
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
                name: "IX_activity_event_SegmentId",
                table: "activity_event",
                column: "SegmentId");

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
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
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
        }
    }
}

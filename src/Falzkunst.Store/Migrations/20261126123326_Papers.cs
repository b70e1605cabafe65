using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class Papers : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "ReadsMarks",
                table: "Machines",
                type: "boolean",
                nullable: false,
                defaultValue: true);

            migrationBuilder.CreateTable(
                name: "Papers",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    StudioId = table.Column<Guid>(type: "uuid", nullable: false),
                    DocketId = table.Column<Guid>(type: "uuid", nullable: false),
                    LayoutId = table.Column<Guid>(type: "uuid", nullable: false),
                    Sheet = table.Column<int>(type: "integer", nullable: false),
                    By = table.Column<string>(type: "text", nullable: false),
                    Picture = table.Column<string>(type: "text", nullable: false),
                    PxPerMm = table.Column<double>(type: "double precision", nullable: false),
                    LeftMm = table.Column<double>(type: "double precision", nullable: false),
                    TopMm = table.Column<double>(type: "double precision", nullable: false),
                    Why = table.Column<string>(type: "text", nullable: false),
                    Map = table.Column<double[]>(type: "double precision[]", nullable: false),
                    ResidualMm = table.Column<double>(type: "double precision", nullable: false),
                    UncertainMm = table.Column<double>(type: "double precision", nullable: false),
                    Proof = table.Column<string>(type: "text", nullable: false),
                    At = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Papers", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Papers_Dockets_DocketId",
                        column: x => x.DocketId,
                        principalTable: "Dockets",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_Papers_Layouts_LayoutId",
                        column: x => x.LayoutId,
                        principalTable: "Layouts",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_Papers_Studios_StudioId",
                        column: x => x.StudioId,
                        principalTable: "Studios",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Papers_DocketId",
                table: "Papers",
                column: "DocketId");

            migrationBuilder.CreateIndex(
                name: "IX_Papers_LayoutId_Sheet_At",
                table: "Papers",
                columns: new[] { "LayoutId", "Sheet", "At" });

            migrationBuilder.CreateIndex(
                name: "IX_Papers_StudioId",
                table: "Papers",
                column: "StudioId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Papers");

            migrationBuilder.DropColumn(
                name: "ReadsMarks",
                table: "Machines");
        }
    }
}
